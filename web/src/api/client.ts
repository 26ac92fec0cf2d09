/** The generated client, and errors as sentences. */
import createClient from 'openapi-fetch'

import { type Problem, Refusal } from './refusal'
import type { components, paths } from './schema.gen'

export type Schema = components['schemas']
export type Overview = Schema['Overview']
export type TagStrip = Schema['TagStrip']
export type CodebookPage = Schema['CodebookPage']
export type VariableTable = Schema['VariableTable']
export type TableRow = Schema['TableRow']
export type FillCounts = Schema['FillCounts']
export type Finding = Schema['FindingModel']
export type Job = Schema['JobState']
export type AnyStep = Schema['StepRequest']['step']
export type Tag = Schema['Tag']

/** The browser's fetch is looked up at every call, so that what is put in its place later counts. */
export const api = createClient<paths>({ baseUrl: '', fetch: (request) => window.fetch(request) })

interface Reply<T> {
  data?: T
  error?: unknown
  response: Response
}

let tell = (): void => undefined

/** Has somebody told whenever the server answers, whatever it says. */
export function whenAnswered(told: () => void): void {
  tell = told
}

/** The data of a reply; a refusal or a lost connection becomes a Refusal. */
export async function got<T>(asked: Promise<Reply<T>>): Promise<T> {
  let reply: Reply<T>
  try {
    reply = await asked
  } catch {
    throw new Refusal(problem(0, 'Row Tag does not answer. Nothing that was accepted is lost; is the server running?'))
  }
  tell()
  if (reply.response.ok) return reply.data as T
  const known = reply.error as Problem | undefined
  throw new Refusal(known?.detail ? known : problem(reply.response.status, 'Row Tag could not do this.'))
}

function problem(status: number, detail: string): Problem {
  return { type: 'about:blank', title: detail, status, detail, remedy: '', where: {}, suggestion: null, details: [] }
}

/** An id of its own for a step, so that sending it twice does it once. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(12))
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('')
}

/** A file as the body of a request, with what is said of it; several values of one field each by itself. */
export function formOf<T extends object>(file: File, more?: T): { body: { file: string } & T; bodySerializer: () => FormData } {
  const form = new FormData()
  form.append('file', file)
  for (const [field, value] of Object.entries(more ?? {})) {
    for (const each of Array.isArray(value) ? value : [value]) form.append(field, String(each))
  }
  return { body: form as unknown as { file: string } & T, bodySerializer: () => form }
}
