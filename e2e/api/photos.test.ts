import type { ProbeView, ProblemView } from '@frustum/contract'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { startTestServer, type TestServer } from '../support/testServer.ts'

/** A photo of what happened: kept under what it holds, shown with its event. */

let server: TestServer
beforeAll(async () => {
  server = await startTestServer({ sensors: ['CH-pH-4'] })
})
afterAll(() => server.stop())

const end = Buffer.from([0xff, 0xd8, 0xff, 0xda, 0, 3, 1, 9, 9, 0xff, 0xd9])
const send = async (bytes: Buffer, type = 'image/jpeg') => {
  const answer = await fetch(`${server.url}/api/photos`, {
    method: 'POST',
    headers: { 'content-type': type },
    body: new Uint8Array(bytes),
  })
  return { status: answer.status, body: (await answer.json()) as ProblemView & { photo: string } }
}

it('goes with an event, is kept once, and is answered as what it is by its content', async () => {
  const { status, body } = await send(end, 'image/png')
  expect([status, body.photo]).toEqual([201, expect.stringMatching(/^[0-9a-f]{64}$/)])
  expect((await send(end)).body.photo).toBe(body.photo)
  const event = { operator: 'S. Osk', kind: 'unplugged', at: Date.now() - 1000, note: 'Cable out', photo: body.photo }
  const { body: page } = await server.ask<ProbeView>('/api/probes/CH-pH-4/events', event)
  expect(page.events.at(-1)).toMatchObject({ kind: 'unplugged', photo: body.photo })
  const shown = await fetch(`${server.url}/api/photos/${body.photo}`)
  expect(shown.headers.get('content-type')).toBe('image/jpeg')
  expect(Buffer.from(await shown.arrayBuffer()).equals(end)).toBe(true)
})

it('what is none, is too large or was never sent is refused in a sentence', async () => {
  expect(await send(Buffer.from('<html>'))).toMatchObject({
    status: 400,
    body: { hint: 'Take a JPEG, a PNG or a WebP.' },
  })
  expect((await send(Buffer.concat([end, Buffer.alloc(2 * 1024 * 1024)]))).status).toBe(413)
  const event = { operator: 'S. Osk', kind: 'unplugged', at: Date.now() - 1000, photo: 'a'.repeat(64) }
  expect((await server.ask('/api/probes/CH-pH-4/events', event)).status).toBe(404)
  expect((await fetch(`${server.url}/api/photos/none`)).status).toBe(404)
})
