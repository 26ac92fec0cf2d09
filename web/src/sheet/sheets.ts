/** Documents beside the study: which there are, which is shown, and what was understood of it. */
import { useLocalStorage, useMediaQuery } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'

import { api, formOf, got, newId, type Schema } from '@/api/client'
import { useAsked } from '@/study/asked'
import { useWork } from '@/study/jobs'
import { attempt } from '@/study/notices'
import { useStudy } from '@/study/store'

/** Endings of files that are read as documents. */
export const DOCUMENT_ENDINGS =
  '.txt,.md,.rst,.tex,.rd,.docx,.odt,.rtf,.pdf,.html,.htm,.yaml,.yml,.toml,.csv,.tsv,.tab,.xlsx,.xlsm,.xls,.ods,.json,.xml,.sss,.ddi'

export type Described = Schema['DescribedVariable']
/** What was said of some lines that were understood otherwise. */
export type Otherwise = Schema['Otherwise']
/** The first and last of some lines, from 1. */
export type Span = [number, number]

export const useSheets = defineStore('sheets', () => {
  const study = useStudy()
  /** Beside the work where there is a document, until somebody puts it away or asks for it. */
  /** Where there is little room it is folded away, and lies over the work when it is asked for. */
  const narrow = useMediaQuery('(max-width: 900px)')
  const unfolded = ref(false)
  const asked = useLocalStorage<'' | 'shown' | 'away'>('row-tag-side-sheet', '')
  const comparing = ref(false)
  const wanted = ref('')

  const list = useAsked(
    'sheets',
    () => [study.id, study.revision > 0, study.stamp({ shelves: ['sheet'] })] as const,
    ([id, there]) => (there ? got(api.GET('/api/studies/{study_id}/sheets', { params: { path: { study_id: id } } })) : null),
  )
  const sheets = computed(() => list.value ?? [])
  const current = computed(() => sheets.value.find((each) => each.id === wanted.value) ?? sheets.value.at(-1) ?? null)
  const id = computed({ get: () => current.value?.id ?? '', set: (to) => (wanted.value = to) })

  /** Whether somebody has just asked for it: only then it takes the keys. */
  const justAsked = ref(false)
  const shown = computed({
    get: () => (narrow.value ? unfolded.value : asked.value ? asked.value === 'shown' : sheets.value.length > 0),
    set: (to) => {
      if (narrow.value) unfolded.value = to
      else asked.value = to ? 'shown' : 'away'
      justAsked.value = to
    },
  })
  const loaded = computed(() => list.value !== null)

  // What is understood depends on the names there are; other changes leave it as it is.
  const names = computed(() => study.variables.map((each) => [each.name, ...each.former].join()).join(' '))
  const page = useAsked(
    'sheet',
    () => [study.id, current.value?.id, study.stamp({ shelves: ['sheet'] }), names.value] as const,
    ([study_id, sheet_id]) =>
      sheet_id ? got(api.GET('/api/studies/{study_id}/sheets/{sheet_id}', { params: { path: { study_id, sheet_id } } })) : null,
  )

  /** The first and last lines that describe some variables. */
  const spans = (variables: string[]): Span[] =>
    page.value?.variables.filter((each) => each.variable && variables.includes(each.variable)).map((each): Span => [each.first, each.last]) ?? []

  /** Keeps a text beside the study; gives its id, nothing where it was not accepted. */
  async function keep(name: string, text: string): Promise<string> {
    const sheet = newId().slice(0, 12)
    const kept = await study.take({ do: 'keep sheet', format: 1, sheet, name, text })
    if (kept) wanted.value = sheet
    return kept ? sheet : ''
  }

  /** The document with which a study begins: all that it describes is wanted, until somebody says otherwise. */
  const beginning = ref('')

  /** Says how lines of the document are meant, or takes that back, and has it read again. */
  const readOtherwise = (otherwise: Otherwise[]): Promise<unknown> => study.take({ do: 'read otherwise', format: 1, sheet: id.value, said: otherwise })

  const letGo = (sheet: string): Promise<unknown> => study.take({ do: 'remove sheet', format: 1, sheet })

  /** A file as text, given to be looked at; tables and metadata become codebook text, read as said. */
  async function read(file: File, sheet = '', columns: Schema['TableSeen']['columns'] = []): Promise<Schema['SheetText'] | undefined> {
    if (/\.pdf$/i.test(file.name)) return attempt(() => pages(file))
    return attempt(() => got(api.POST('/api/sheets/text', formOf(file, { sheet, columns }))))
  }

  /** Pages take longer: how far they are, and the first of them while the others are read. */
  const { job: reading, run, cancel: stopReading } = useWork()

  async function pages(file: File): Promise<Schema['SheetText'] | undefined> {
    const done = await run(got(api.POST('/api/sheets/pages', formOf(file, {}))))
    return done?.result.document as Schema['SheetText'] | undefined
  }

  watch(() => study.id, () => (comparing.value = false))

  return { shown, narrow, justAsked, loaded, comparing, sheets, current, id, page, spans, keep, beginning, readOtherwise, letGo, read, reading, stopReading }
})
