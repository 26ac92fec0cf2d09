/** The session against a server made of a few lines: what one means is never lost, and never written over another's. */
import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { AnyStep, Overview } from '@/api/client'
import { Refusal } from '@/api/refusal'
import type { PageColumn } from '@/session/cells'
import { Queue, rebased } from '@/session/queue'
import { type Server, Session } from '@/session/session'
import { Stamps } from '@/session/stamps'
import type { Done, Intention, Touched } from '@/session/types'

const NOTHING: Touched = { tags: [], entries: [], shelves: [], order: false, records: false }

interface Kept {
  id: string
  revision: number
  change: (state: State) => State
  mine: boolean
}

interface State {
  entries: Record<string, string>
  records: number
  order: string[]
}

/** A study of entries alone. Replies come when the test lets them, in any order it likes. */
class Pretended implements Server {
  states: State[] = [{ entries: { '1:a': '3', '2:a': '5', '1:b': '8' }, records: 2, order: ['a', 'b'] }]
  moves: { state: number; kept: Kept | null }[] = [{ state: 0, kept: null }]
  held: (() => void)[] = []
  hold = false
  down = false
  sent: string[] = []

  get revision(): number {
    return this.moves.length
  }

  get now(): State {
    return this.states[this.moves.at(-1)!.state]!
  }

  async gate(): Promise<void> {
    if (this.hold) await new Promise<void>((go) => this.held.push(go))
    if (this.down) throw new Refusal({ title: 'lost', status: 0, detail: 'Row Tag does not answer.' })
  }

  /** Lets replies go, the newest first where asked for. */
  async letGo(newestFirst = false): Promise<void> {
    this.hold = false
    const held = newestFirst ? this.held.reverse() : this.held
    this.held = []
    held.forEach((go) => go())
    await settled()
  }

  seen(base: number, over: string[]): State {
    let state = this.states[this.moves[base - 1]!.state]!
    for (const { kept } of this.moves.slice(base)) if (kept && over.includes(kept.id)) state = kept.change(state)
    return state
  }

  async step(id: string, base: number, over: string[], step: AnyStep): Promise<Done> {
    this.sent.push(`${step.do} ${JSON.stringify('entries' in step ? step.entries : '')} on ${base}`)
    await this.gate()
    const known = this.moves.findIndex((each) => each.kept?.id === id)
    if (known < 0) {
      const seen = this.seen(base, over)
      if (step.do === 'set entries') {
        const variable = step.variable
        for (const record of Object.keys(step.entries as object)) {
          if (seen.entries[`${record}:${variable}`] !== this.now.entries[`${record}:${variable}`]) {
            throw new Refusal({ title: 'changed', status: 409, detail: `Meanwhile this was changed: entry ${record}.` })
          }
        }
      }
      this.keep(id, changeOf(step), true)
    }
    const revision = known < 0 ? this.revision : known + 1
    return { revision, outcome: { account: { arrived: this.now.records } } as never }
  }

  async move(to: 'undo' | 'redo' | 'go', base: number, over: string[]): Promise<Done> {
    this.sent.push(`${to} on ${base}`)
    await this.gate()
    const since = this.moves.slice(base)
    if (since.some((each) => !each.kept || !over.includes(each.kept.id))) {
      throw new Refusal({ title: 'changed', status: 409, detail: 'The study was changed meanwhile.' })
    }
    const here = this.moves.at(-1)!.state
    this.moves.push({ state: here - 1, kept: null })
    return { revision: this.revision, outcome: null }
  }

  /** Another window does something. */
  other(change: (state: State) => State): number {
    return this.keep(`other-${this.revision}`, change, false)
  }

  async overview(known?: number): Promise<Overview> {
    const { order, records } = this.now
    const touched = known === undefined ? null : this.between(this.states[this.moves[known - 1]!.state]!, this.now)
    const found = { revision: this.revision, touched, order, records, variables: order.map((id) => ({ id })) }
    await this.gate()
    return found as never
  }

  between(was: State, now: State): Touched {
    const different = Object.keys({ ...was.entries, ...now.entries }).filter((at) => was.entries[at] !== now.entries[at])
    const entries = [...new Set(different.map((at) => at.split(':')[1]!))]
    return { ...NOTHING, entries, records: was.records !== now.records }
  }

  page(ids: string[]): { revision: number; records: number[]; columns: PageColumn[] } {
    const records = Array.from({ length: this.now.records }, (_, at) => at + 1)
    const columns = ids.map((id) => {
      const texts = records.map((record) => this.now.entries[`${record}:${id}`] ?? '')
      return { id, texts, codes: texts, labels: texts.map(() => ''), states: texts.map((text) => (text ? 0 : 2)), index: records.map((_, at) => at) }
    })
    return { revision: this.revision, records, columns }
  }

  private keep(id: string, change: (state: State) => State, mine: boolean): number {
    this.states.push(change(this.now))
    this.moves.push({ state: this.states.length - 1, kept: { id, revision: this.revision + 1, change, mine } })
    return this.revision
  }
}

function changeOf(step: AnyStep): (state: State) => State {
  if (step.do !== 'set entries') return (state) => ({ ...state, records: state.records + 1 })
  const { variable, entries } = step
  return (state) => ({
    ...state,
    entries: { ...state.entries, ...Object.fromEntries(Object.entries(entries as object).map(([record, text]) => [`${record}:${variable}`, text as string])) },
  })
}

const settled = (): Promise<void> => new Promise((done) => setTimeout(done, 5))

let server: Pretended
let session: Session
let failures: { error: unknown; again: () => void }[]

beforeEach(async () => {
  server = new Pretended()
  failures = []
  let ids = 0
  session = new Session(
    server,
    { changed: () => undefined, failed: (error, again) => failures.push({ error, again }), stalled: (error, again) => failures.push({ error, again }) },
    () => `mine-${++ids}`,
  )
  await session.refresh(true)
  session.cells.accept(0, server.page(['a', 'b']))
})

const type = (text: string, record = 1, variable = 'a', seen = session.seen(record - 1, variable)): Promise<Done> =>
  session.type({ record, variable, text }, seen)

describe('typing faster than the server answers', () => {
  it('keeps 4 over 3 and 3 again', async () => {
    server.hold = true
    const first = type('4')
    expect(session.cells.cell(0, 'a')).toMatchObject({ text: '4', pending: true })
    const second = type('3')
    expect(session.cells.cell(0, 'a')!.text).toBe('3')
    await server.letGo()
    await Promise.all([first, second])
    expect(server.now.entries['1:a']).toBe('3')
    expect(server.revision).toBe(3)
  })

  it('undoes what was typed though it was not kept yet', async () => {
    server.hold = true
    const typed = type('4')
    const undone = session.move('undo')
    await server.letGo()
    await Promise.all([typed, undone])
    expect(server.now.entries['1:a']).toBe('3')
    const again = type('7')
    await again
    expect(server.now.entries['1:a']).toBe('7')
  })

  it('types into a record that is only being made', async () => {
    server.hold = true
    const { record, done } = session.addRecord()
    expect(record).toBeLessThan(0)
    expect(session.coming()).toEqual([record])
    const typed = type('7', record)
    expect(session.cells.cell(2, 'a', record)!.text).toBe('7')
    await server.letGo()
    await Promise.all([done, typed])
    expect(server.now).toMatchObject({ records: 3, entries: { '3:a': '7' } })
    expect(session.numberOf(record)).toBe(3)
    expect(session.cells.cell(2, 'a', 3)!.text).toBe('7')
    await session.refresh()
    expect(session.coming()).toEqual([])
  })

  it('sends in order, each made for what the one before left', async () => {
    await Promise.all(['1', '2', '3', '4'].map((text) => type(text)))
    expect(server.sent).toEqual(['1', '2', '3', '4'].map((text, at) => `set entries {"1":"${text}"} on ${at + 1}`))
    expect(server.now.entries['1:a']).toBe('4')
  })

  it('sends in order what must first be asked about, however long each answer takes', async () => {
    const answers: ((text: string) => void)[] = []
    const read = async (): Promise<AnyStep> => {
      const text = await new Promise<string>((answer) => answers.push(answer))
      return { do: 'set entries', variable: 'a', entries: { 1: text } } as never
    }
    const first = session.take(read)
    const second = type('7')
    const undone = session.move('undo')
    await settled()
    expect(server.sent).toEqual([])
    answers[0]!('4')
    await Promise.all([first, second, undone])
    expect(server.sent.map((each) => each.replace(/ on .*/, ''))).toEqual(['set entries {"1":"4"}', 'set entries {"1":"7"}', 'undo'])
    expect(server.now.entries['1:a']).toBe('4')
  })

  it('goes on after a line that cannot be read, and takes no other back with it', async () => {
    const unread = session.take(() => Promise.reject(new Refusal({ title: 'unreadable', status: 422, detail: 'No code in it.' })))
    const undone = session.move('undo')
    const typed = type('7')
    await expect(unread).rejects.toThrow('No code in it.')
    await expect(undone).rejects.toThrow()
    await typed
    expect(server.now.entries['1:a']).toBe('7')
  })
})

describe('two windows', () => {
  it('are told of one entry that both typed into; neither is written over', async () => {
    const seen = session.seen(0, 'a')
    server.other((state) => ({ ...state, entries: { ...state.entries, '1:a': '9' } }))
    await expect(type('4', 1, 'a', seen)).rejects.toThrow('Meanwhile this was changed')
    expect(server.now.entries['1:a']).toBe('9')
    expect(session.cells.cell(0, 'a')).toMatchObject({ text: '3', pending: false })
    expect(session.queue.length).toBe(0)
  })

  it('do not get in the way of one another elsewhere', async () => {
    server.hold = true
    const first = type('4')
    const second = type('6', 2)
    server.other((state) => ({ ...state, entries: { ...state.entries, '1:b': '1' } }))
    await server.letGo()
    await Promise.all([first, second])
    expect(server.now.entries).toEqual({ '1:a': '4', '2:a': '6', '1:b': '1' })
  })

  it('leave an entry in its variable when that is moved meanwhile', async () => {
    const seen = session.seen(0, 'a')
    const revision = server.other((state) => ({ ...state, order: ['b', 'a'] }))
    session.heard(revision)
    await session.refresh()
    expect(session.overview!.order).toEqual(['b', 'a'])
    await type('4', 1, 'a', seen)
    expect(server.now.entries).toMatchObject({ '1:a': '4', '1:b': '8' })
    expect(session.cells.cell(0, 'b')!.text).toBe('8')
  })

  it('give up an undo whose step was refused, and take back nothing of another', async () => {
    const seen = session.seen(0, 'a')
    server.other((state) => ({ ...state, entries: { ...state.entries, '1:a': '9' } }))
    const typed = type('4', 1, 'a', seen)
    const undone = session.move('undo')
    await expect(typed).rejects.toThrow('Meanwhile')
    await expect(undone).rejects.toThrow()
    expect(server.now.entries['1:a']).toBe('9')
  })

  it('refuse an undo over what another did', async () => {
    await type('4')
    server.other((state) => ({ ...state, entries: { ...state.entries, '1:b': '1' } }))
    await expect(session.move('undo')).rejects.toThrow('changed meanwhile')
    expect(server.now.entries).toMatchObject({ '1:a': '4', '1:b': '1' })
  })
})

describe('what comes late', () => {
  it('is dropped where something newer is shown', async () => {
    const old = server.page(['a'])
    await type('4')
    session.cells.accept(0, server.page(['a']))
    session.cells.accept(0, old)
    expect(session.cells.cell(0, 'a')).toMatchObject({ text: '4', pending: false })
  })

  it('does not take off what one has typed since', async () => {
    server.hold = true
    const typed = type('4')
    session.cells.accept(0, server.page(['a']))
    expect(session.cells.cell(0, 'a')!.text).toBe('4')
    await server.letGo()
    await typed
    session.cells.accept(0, server.page(['a']))
    expect(session.cells.cell(0, 'a')).toMatchObject({ text: '4', pending: false })
  })

  it('does not put an older overview over a newer one', async () => {
    server.hold = true
    const late = session.refresh(true)
    const revision = server.other((state) => ({ ...state, records: 9 }))
    session.heard(revision)
    await server.letGo(true)
    await late
    expect(session.overview).toMatchObject({ revision, records: 9 })
  })

  it('is not all that is asked for when word of others may have been missed', async () => {
    server.hold = true
    const late = session.refresh(true)
    const revision = server.other((state) => ({ ...state, records: 9 })) // nobody tells of it
    const looked = session.refresh(true)
    await server.letGo()
    await Promise.all([late, looked])
    expect(session.overview).toMatchObject({ revision, records: 9 })
  })
})

describe('what was missed', () => {
  const edited = (at: string) => server.other((state) => ({ ...state, entries: { ...state.entries, [at]: '9' } }))

  it('is told with what one does oneself next', async () => {
    edited('1:a') // nobody tells of it
    await type('4', 2, 'b')
    await session.refresh()
    expect(session.cells.lacking(0, ['a', 'b'])).toEqual(['a', 'b'])
    expect(session.stamp({ entries: ['a'] })).toBe(3)
  })

  it('is told once, in whatever order words of it come', async () => {
    const revisions = [edited('1:a'), edited('1:a')]
    for (const revision of revisions.reverse()) session.heard(revision)
    await session.refresh()
    expect(session.stamp({ entries: ['a'] })).toBe(3)
    session.heard(2)
    await settled()
    expect(session.stamp({ entries: ['a'] })).toBe(3)
    session.cells.accept(0, server.page(['a']))
    expect(session.cells.lacking(0, ['a'])).toEqual([])
  })
})

describe('whoever stumbles over being told', () => {
  it('takes no kept step for a refused one, and holds up none', async () => {
    const said = vi.spyOn(console, 'error').mockImplementation(() => undefined)
    const refused: unknown[] = []
    const stumble = () => {
      throw new Error('stumbled')
    }
    const queue = new Queue(
      server,
      { changed: () => undefined, kept: stumble, refused: (_, error) => void refused.push(error), stalled: stumble },
      () => `queued-${Math.random()}`,
    )
    const step = (variable: string): AnyStep => ({ do: 'set entries', format: 1, variable, entries: { 1: '4' } }) as never
    const sent = ['a', 'b'].map((variable) => queue.step(step(variable), queue.seen(1)))
    expect((await Promise.all(sent.map((each) => each.done))).map((done) => done.revision)).toEqual([2, 3])
    expect([refused, queue.length, said.mock.calls.length]).toEqual([[], 0, 2])
    said.mockRestore()
  })
})

describe('only what depends on it', () => {
  it('is asked for again', () => {
    expect(session.cells.lacking(0, ['a', 'b'])).toEqual([])
    session.cells.note(5, { ...NOTHING, entries: ['a'] })
    expect(session.cells.lacking(0, ['a', 'b'])).toEqual(['a'])
    session.cells.note(6, { ...NOTHING, records: true })
    expect(session.cells.lacking(0, ['a', 'b'])).toEqual(['a', 'b'])
    expect(session.cells.cell(0, 'a')!.text).toBe('3')
  })

  it('gets another stamp', () => {
    const stamps = new Stamps()
    const page = { tags: ['a'], entries: ['a'] } as const
    stamps.note(4, { ...NOTHING, tags: ['b'] })
    expect(stamps.of(page)).toBe(0)
    expect(stamps.of({ tags: 'all' })).toBe(4)
    stamps.note(5, { ...NOTHING, entries: ['a'], shelves: ['list'] })
    expect([stamps.of(page), stamps.of({ shelves: ['list'] }), stamps.of({ order: true })]).toEqual([5, 5, 0])
    stamps.note(9, 'all')
    expect([stamps.of(page), stamps.of({ records: true })]).toEqual([9, 9])
  })
})

describe('no answer', () => {
  it('keeps what was typed and sends it again, once', async () => {
    server.down = true
    const typed = [type('4'), type('6', 2)]
    await settled()
    expect(session.queue.length).toBe(2)
    expect(session.cells.cell(0, 'a')!.text).toBe('4')
    expect((failures[0]!.error as Refusal).lost).toBe(true)
    server.down = false
    failures[0]!.again()
    await Promise.all(typed)
    expect(server.now.entries).toMatchObject({ '1:a': '4', '2:a': '6' })
    expect(server.revision).toBe(3)
  })

  it('to a question is said, and asked again', async () => {
    server.down = true
    const revision = server.other((state) => ({ ...state, records: 5 }))
    session.heard(revision)
    await settled()
    expect(failures).toHaveLength(1)
    server.down = false
    failures[0]!.again()
    await settled()
    expect(session.overview!.records).toBe(5)
  })
})

it('is rebased over one’s own alone', () => {
  const mine = (id: string, revision: number | null, move = false): Intention =>
    ({ id, revision, does: move ? { move: 'undo', state: null } : { step: {} }, cells: [], seen: { base: 0, over: [] } }) as never
  const over = (...each: Intention[]) => rebased({ base: 3, over: each })
  expect(over(mine('a', 4), mine('b', 5))).toEqual({ base: 5, over: [] })
  expect(over(mine('a', 4), mine('b', 6))).toEqual({ base: 4, over: ['b'] })
  expect(over(mine('a', null), mine('b', 2))).toEqual({ base: 3, over: [] })
  expect(over(mine('a', 4), mine('u', 5, true))).toEqual({ base: 5, over: [] })
})
