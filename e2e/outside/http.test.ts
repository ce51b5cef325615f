import type { IngestView, Mapping, RigView } from '@frustum/contract'
import { fleet, standInUnits } from '@frustum/demo'
import { startStandIns } from '@frustum/lab/stand-ins'
import type { MessageFormat } from '@frustum/server/protocols'
import { expect, it, onTestFinished } from 'vitest'
import { operator, ownSite } from '../support/ownSite.ts'
import { said } from './programs.ts'

/** Against curl: it sends to us as a device would, and fetches what our stand-ins show. */

const TOKEN = 'tokenOfTheHallsLogger2026'
const field = (name: string) => ({ at: { field: name }, unit: '', scale: 1, offset: 0 })

it.each([
  ['json', '/ph', '/at', (at: number) => `[{"at":"${new Date(at).toISOString()}","ph":8.11}]`],
  ['senml', 'hall:ph', undefined, (at: number) => `[{"bn":"hall:","bt":${at / 1000},"n":"ph","v":8.11}]`],
  ['csv', 'pH', undefined, (at: number) => `Timestamp;pH\n${new Date(at).toISOString()};8,11\n`],
  ['line', 'tank,room=hall/ph', undefined, (at: number) => `tank,room=hall ph=8.11 ${at}000000`],
  ['number', '', undefined, () => '8.11'],
] as const)('curl sends %s as a device would', async (format: MessageFormat, value, time, body) => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater')
  const mapping: Mapping = { countsFrom: 0, format, value: field(value), ...(time ? { time: { field: time } } : {}) }
  await site.ask('lines/1/token', { operator, token: TOKEN })
  await site.ask('lines/1', { operator, protocol: 'push', mapping })
  site.clock.set(site.clock.now() + 60_000)
  const now = site.clock.now()
  const sent = await said('curl', ['-sS', '-d', body(now), `${site.url()}/api/ingest/${TOKEN}`])
  expect(JSON.parse(sent) as IngestView).toEqual({ kept: 1, known: 0, refused: [] })
  expect((await site.get<RigView>('rig')).positions[0]?.live).toMatchObject({ shown: 8.11, at: now })
})

it('curl fetches the pages that our stand-ins show', async () => {
  const standIns = await startStandIns(standInUnits(fleet().filter((s) => s.via?.by === 'page')))
  onTestFinished(standIns.close)
  const page = (path: string) => said('curl', ['-sS', '-f', `http://127.0.0.1:${standIns.pages}/${path}`])
  expect(JSON.parse(await page('status.json'))).toEqual({
    channels: [{ value: expect.any(Number), mv: expect.any(Number), temp: expect.any(Number) }],
  })
  expect(await page('status.xml')).toMatch(/<resistivity>[\d.]+<\/resistivity>/)
  await expect(page('nothing')).rejects.toThrow('404')
})
