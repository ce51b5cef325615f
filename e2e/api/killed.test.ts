import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { VisitView } from '@frustum/contract'
import { afterAll, expect, it } from 'vitest'
import { StationHost } from '../support/stationHost.ts'

const folder = mkdtempSync(join(tmpdir(), 'frustum-killed-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

it('a kill -9 in mid-visit loses nothing that was acknowledged, and the next start goes on at the same step', async () => {
  const asker = { clientId: randomUUID(), operator: 'I. Marrow' }
  const sensors = ['CH-pH-4']
  const host = new StationHost()
  const app = await host.open({ folder, sensors })
  const post = async (url: string, path: string, body: object) => {
    const response = await fetch(url + path, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ ...asker, ...body }),
    })
    expect(response.ok, await response.clone().text()).toBe(true)
    return (await response.json()) as VisitView
  }
  const { id } = await post(app.url, '/api/visits', {
    position: 'CH-pH-4',
    procedure: 'ph-two-point',
    standards: { first: 'pH7.00', second: 'pH10.01' },
    opening: {},
  })
  await post(app.url, `/api/visits/${id}/done`, { step: 'hold' })
  await post(app.url, `/api/visits/${id}/typed`, { step: 'found-process', value: '8.05', temperature: '24.6' })
  await post(app.url, `/api/visits/${id}/capture`, { step: 'found-process', earlyReason: 'No time' })
  const last = await post(app.url, `/api/visits/${id}/typed`, {
    step: 'found-standard',
    value: '7.11',
    temperature: '22.0',
  })
  await host.kill()

  const other = new StationHost()
  const again = await other.open({ folder, sensors })
  const view = (await (await fetch(`${again.url}/api/visits/${id}`)).json()) as VisitView
  expect(view.current).toBe('found-standard')
  expect(view.steps).toEqual(last.steps)
  expect(view.steps.find((s) => s.key === 'found-process')?.reading?.shown).toBe(8.05)
  // The reading typed before the cut still counts: it can be taken without typing it again.
  const next = await post(again.url, `/api/visits/${id}/capture`, { step: 'found-standard', earlyReason: 'No time' })
  expect(next.steps.find((s) => s.key === 'found-standard')?.reading?.shown).toBeCloseTo(7.11, 6)
  await again.close()
  other.stop()
}, 120_000)
