/** Completion of what is typed: the answers that a variable's list offers, by code or by words of their labels. */
import { api, got, type Schema } from '@/api/client'
import { useAsked } from '@/study/asked'
import { useStudy } from '@/study/store'

export type Answer = Schema['Answer']

/** The answers of the variable that is chosen, fetched before anything is typed. */
export function useAnswers(variable: () => string | null) {
  const study = useStudy()
  return useAsked(
    'answers',
    () => {
      const id = variable()
      const listed = id !== null && study.byId.get(id)?.has_codes
      return [study.id, listed ? id : null, study.stamp({ tags: id ? [id] : [], shelves: ['list'] })] as const
    },
    ([study_id, variable_id]) =>
      variable_id ? got(api.GET('/api/studies/{study_id}/variables/{variable_id}/answers', { params: { path: { study_id, variable_id } } })) : null,
  )
}

/** A text without case and accents. */
export const folded = (text: string): string => text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase().trim()

/** The answers that a typed text may mean: those whose code begins with it first, then those by words of their label. */
export function meantBy(answers: readonly Answer[], typed: string): Answer[] {
  const text = folded(typed)
  if (!text) return [...answers]
  const byCode = answers.filter((each) => folded(each.code).startsWith(text))
  const byLabel = answers.filter((each) => !byCode.includes(each) && ` ${folded(each.label)}`.includes(` ${text}`))
  return [...byCode, ...byLabel]
}
