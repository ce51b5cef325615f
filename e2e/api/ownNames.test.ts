import { request } from 'node:http'
import { networkInterfaces } from 'node:os'
import { readConfig } from '@frustum/server'
import { expect, it } from 'vitest'
import { ownSite } from '../support/ownSite.ts'

/** Asks under a name; `fetch` would not let it be another than that of the address. */
const asked = (url: string, path: string, headers: Record<string, string>, body?: string) =>
  new Promise<{ status: number; text: string }>((resolve, reject) => {
    const asking = request(`${url}${path}`, { method: body ? 'POST' : 'GET', headers, setHost: false }, (answer) => {
      let text = ''
      answer.on('data', (part) => {
        text += part
      })
      answer.on('end', () => resolve({ status: answer.statusCode ?? 0, text }))
    })
    asking.on('error', reject)
    asking.end(body)
  })

it('a page whose name was made to lead here reads nothing and writes nothing, be its origin that name', async () => {
  const { url, get } = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,nutrient')
  const port = new URL(url()).port
  const before = await get('rig')
  const rename = JSON.stringify({ operator: 'E. Vil', values: { name: 'Theirs' }, seen: {}, mode: 'wrong' })
  for (const host of ['evil.example', `evil.example:${port}`, 'localhost.evil.example', '127.0.0.1.evil.example', '']) {
    const headers = { host, origin: `http://${host}`, 'content-type': 'application/json' }
    for (const path of ['/', '/api/ledger/export.json', '/api/rig/set-up.json', '/api/live']) {
      const { status, text } = await asked(url(), path, headers)
      expect([host, path, status]).toEqual([host, path, 421])
      expect(text).not.toContain('T1-pH')
    }
    expect((await asked(url(), '/api/rig/place/1', headers, rename)).status).toBe(421)
  }
  expect(await get('rig')).toEqual(before)
})

it.each(['localhost', 'LOCALHOST', '127.0.0.1', '[::1]', 'localhost.'])('is answered as %s', async (name) => {
  const { url } = await ownSite('')
  const { port } = new URL(url())
  expect((await asked(url(), '/api/site', { host: `${name}:${port}` })).status).toBe(200)
  // Listening on loopback alone, an address of the network is none of its names.
  const outer = Object.values(networkInterfaces())
    .flatMap((all) => all ?? [])
    .find((a) => !a.internal && a.family === 'IPv4')
  if (outer) expect((await asked(url(), '/api/site', { host: outer.address })).status).toBe(421)
})

it('further names are written without ports, and others are refused before anything starts', () => {
  expect(readConfig({ FRUSTUM_NAMES: 'Tank.example, pump' }, null).names).toEqual(['tank.example', 'pump'])
  for (const wrong of ['tank.example:80', 'http://tank', 'a b', '-tank', '*']) {
    expect(() => readConfig({ FRUSTUM_NAMES: wrong }, null)).toThrow(/FRUSTUM_NAMES has/)
  }
})
