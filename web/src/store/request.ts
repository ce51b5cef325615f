import type { ProblemView } from '@frustum/contract'
import { DECIMAL_MARK_HEADER, decimalMark } from '@frustum/contract/decimalMark'
import {
  ACTION_HEADER,
  addressOf,
  type BodyOf,
  ENDPOINTS,
  type Endpoint,
  type ParamsOf,
} from '@frustum/contract/endpoints'
import { fetchBaseQuery, retry } from '@reduxjs/toolkit/query/react'
import { newId } from './person.ts'

const base = fetchBaseQuery({ baseUrl: '/' })

const patient = retry(
  async (args: Parameters<typeof base>[0], queryApi: Parameters<typeof base>[1], extra: object) => {
    const answer = await base(args, queryApi, extra)
    // The server's own "no" is an answer; only silence is worth another try.
    if (answer.error && answer.error.status !== 'FETCH_ERROR') retry.fail(answer.error, answer.meta)
    return answer
  },
  { maxRetries: 3 },
)

/** So that the server reads typed numbers as this page does. */
const ownMark = (): Record<string, string> => {
  const mark = decimalMark()
  return mark ? { [DECIMAL_MARK_HEADER]: mark } : {}
}

/** Ids of actions that were sent and not answered yet, by what was sent. */
const unanswered = new Map<string, string>()

/** An action that is pressed again, because its answer never came or has not come yet, is known by its id. */
const act: typeof base = async (args, queryApi, extra) => {
  const request = typeof args === 'string' ? { url: args } : args
  // A photo is known by its content, and sent again is the same one.
  if (request.body instanceof Blob) return base(request, queryApi, extra)
  const what = JSON.stringify(request)
  const id = unanswered.get(what) ?? newId()
  unanswered.set(what, id)
  const answer = await base({ ...request, headers: { [ACTION_HEADER]: id, ...ownMark() } }, queryApi, extra)
  if (answer.error?.status !== 'FETCH_ERROR') unanswered.delete(what)
  return answer
}

const ASK_AGAIN_MS = 1000

/** An import that takes long is answered early, and its outcome fetched: no proxy cuts off what it waits for too long. */
const whenDone: typeof base = async (args, queryApi, extra) => {
  const answer = await act(args, queryApi, extra)
  if (answer.meta?.response?.status !== 202) return answer
  const { job } = answer.data as { job: string }
  for (;;) {
    await new Promise((resolve) => setTimeout(resolve, ASK_AGAIN_MS))
    const outcome = await patient(addressOf(ENDPOINTS.job, { id: job }), queryApi, extra)
    if (outcome.meta?.response?.status !== 202) return outcome
  }
}

/** Only reading is tried again by itself: an action is the operator's to repeat. */
export const query: typeof base = (args, queryApi, extra) =>
  queryApi.type === 'query' ? patient(args, queryApi, extra) : whenDone(args, queryApi, extra)

/** A file is answered within ten seconds, or by where its outcome will be. */
export const FILE_HEADERS = { 'content-type': 'application/octet-stream', prefer: 'respond-async, wait=10' }

/** What is sent to an endpoint that changes something: the parameters of its address and its body, in one object. */
export type Sent<E extends Endpoint> = ParamsOf<E> & BodyOf<E>

/** The request for an endpoint, from what is sent to it. */
export function send<E extends Endpoint>(endpoint: E, sent: Sent<E>) {
  const names = [...endpoint.path.matchAll(/:(\w+)/g)].map((m) => m[1])
  const body = Object.fromEntries(Object.entries(sent).filter(([name]) => !names.includes(name)))
  return { url: addressOf(endpoint, sent), method: endpoint.method, body }
}

/** What went wrong, in the server's words, or in ours when the server cannot be reached. */
export function problemOf(error: unknown): ProblemView {
  const data = (error as { data?: Partial<ProblemView> } | undefined)?.data
  if (data && typeof data.message === 'string') return { ...data, code: data.code ?? 'unknown', message: data.message }
  return {
    code: 'unreachable',
    message: 'The server cannot be reached.',
    detail: 'What was captured is safe there.',
    hint: 'Check that it runs; this page goes on by itself.',
  }
}
