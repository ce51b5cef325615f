import { configureStore } from '@reduxjs/toolkit'
import { cleanup, render } from '@testing-library/react'
import type { ReactElement } from 'react'
import { Provider } from 'react-redux'
import { createMemoryRouter, RouterProvider } from 'react-router'
import { vi } from 'vitest'
import { api } from '../store/api.ts'
import outbox from '../store/outbox.ts'
import person from '../store/person.ts'

/** What a test's server was asked to change. */
export interface SentRequest {
  path: string
  body: Record<string, unknown>
}

/** Answers by address: a value, or a function of the body sent. A problem is an object with `status`. */
export type Answers = Record<string, unknown | ((body: Record<string, unknown>) => unknown)>

interface Refusal {
  status: number
  problem: object
}
export const refuse = (status: number, problem: object): Refusal => ({ status, problem })
const isRefusal = (answer: unknown): answer is Refusal =>
  typeof answer === 'object' && answer !== null && 'problem' in answer

/** Stands in for the server: every address that is asked for has to be in the answers. */
export function answering(answers: Answers): SentRequest[] {
  const sent: SentRequest[] = []
  vi.stubGlobal('EventSource', SilentSource)
  vi.stubGlobal('fetch', async (input: Request | string) => {
    const request = typeof input === 'string' ? new Request(new URL(input, location.href)) : input
    const path = new URL(request.url).pathname
    const body = request.method === 'GET' ? {} : ((await request.json()) as Record<string, unknown>)
    if (request.method !== 'GET') sent.push({ path, body })
    const found = answers[path]
    if (found === undefined) throw new Error(`Nobody answers ${request.method} ${path}.`)
    const answer = typeof found === 'function' ? (found as (b: object) => unknown)(body) : found
    const [status, json] = isRefusal(answer) ? [answer.status, answer.problem] : [200, answer]
    return new Response(JSON.stringify(json), { status, headers: { 'content-type': 'application/json' } })
  })
  return sent
}

/** Renders a part within a store of its own, at an address. Other addresses show their path. */
export function show(element: ReactElement, { path = '/', at = '/' } = {}) {
  const store = configureStore({
    reducer: { person, outbox, [api.reducerPath]: api.reducer },
    middleware: (defaults) => defaults().concat(api.middleware),
  })
  const router = createMemoryRouter(
    [
      { path, element },
      { path: '*', element: <p>elsewhere</p> },
    ],
    { initialEntries: [at] },
  )
  const page = render(
    <Provider store={store}>
      <RouterProvider router={router} />
    </Provider>,
  )
  return { ...page, store, address: () => router.state.location.pathname + router.state.location.search }
}

/** Whatever stands on the page, with plain spaces and a hyphen for minus. */
export const words = (element: HTMLElement) =>
  (element.textContent ?? '').replaceAll('\u00a0', ' ').replaceAll('\u2212', '-')

/** After each test: the page, the stand-in for the server and what the browser keeps. */
export function leavePage(): void {
  cleanup()
  vi.unstubAllGlobals()
  localStorage.clear()
  sessionStorage.clear()
}

/** A stream on which nothing comes. */
class SilentSource extends EventTarget {
  close() {
    // Nothing is open.
  }
}
