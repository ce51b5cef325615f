import { ACTION_HEADER } from '@frustum/contract/endpoints'
import { configureStore } from '@reduxjs/toolkit'
import { afterEach, expect, it, vi } from 'vitest'
import { api } from './api.ts'

afterEach(() => vi.unstubAllGlobals())

it('an action whose answer was lost is sent again under the same id; one that was answered is another action', async () => {
  const store = configureStore({
    reducer: { [api.reducerPath]: api.reducer },
    middleware: (defaults) => defaults().concat(api.middleware),
  })
  const ids: (string | null)[] = []
  let network = false
  vi.stubGlobal('fetch', async (request: Request) => {
    ids.push(request.headers.get(ACTION_HEADER))
    if (!network) throw new TypeError('Failed to fetch')
    return new Response(JSON.stringify({ visit: { id: '1' } }), { headers: { 'content-type': 'application/json' } })
  })
  // The library makes an address of what it fetches, which outside a browser needs a whole one.
  vi.stubGlobal(
    'Request',
    class extends Request {
      constructor(address: string, init?: RequestInit) {
        super(new URL(address, 'http://127.0.0.1'), init)
      }
    },
  )
  const correct = (text: string) =>
    store.dispatch(api.endpoints.correct.initiate({ id: '1', operator: 'I. Marrow', text }))
  await correct('Read in °F.')
  network = true
  await correct('Read in °F.')
  await correct('Read in °F.')
  await correct('Another note.')
  expect(ids).toHaveLength(4)
  expect(ids[1]).toBe(ids[0])
  expect(new Set(ids).size).toBe(3)
  expect(ids.every((id) => id && id.length === 36)).toBe(true)
})
