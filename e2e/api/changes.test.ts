import type { ProbeView, ProblemView, SiteView } from '@frustum/contract'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { startTestServer, type TestServer } from '../support/testServer.ts'

/** What is changed has an author, a reason where a limit is loosened, and a way back. */

let server: TestServer
beforeAll(async () => {
  server = await startTestServer({ sensors: ['CH-pH-3'] })
})
afterAll(() => server.stop())

const AT = '/api/probes/CH-pH-3'
const operator = 'S. Osk'
const rulesNow = async () => {
  const { figure, processValue } = (await server.ask<ProbeView>(AT)).body
  const { method, checkFirst, tolerance, reliability, floorDays, ceilingDays } = figure.policy
  return { method, checkFirst, tolerance, reliability, floorDays, ceilingDays, processValue }
}

it('one tap no longer loosens a limit: a reason is asked, and stands with who, when, before and after', async () => {
  const before = await rulesNow()
  const wider = { ...before, tolerance: 2 * before.tolerance, operator }
  const refused = await server.ask<ProblemView>(`${AT}/rules`, wider)
  expect([refused.status, refused.body.code]).toEqual([400, 'why-needed'])
  expect(refused.body.fields?.why).toBe('Say why in a few words.')
  expect(await rulesNow()).toEqual(before)

  const { body: page } = await server.ask<ProbeView>(`${AT}/rules`, { ...wider, why: 'New species, less touchy' })
  expect(page.changes).toHaveLength(1)
  expect(page.changes[0]).toMatchObject({ operator, why: 'New species, less touchy', undo: true })
  expect(plain(page.changes[0]?.what ?? '')).toBe('Tolerance: 0.1 pH, now 0.2 pH')
})

it('a rule that the kind cannot have, or that cannot be computed, is refused and not written', async () => {
  const before = await rulesNow()
  for (const [change, field] of [
    [{ tolerance: 1e-7 }, 'tolerance'],
    [{ tolerance: 300 }, 'tolerance'],
    [{ processValue: 82 }, 'processValue'],
    [{ method: 'in-use', inUseHours: 1e-300 }, 'inUseHours'],
  ] as const) {
    const { status, body } = await server.ask<ProblemView>(`${AT}/rules`, { ...before, ...change, operator })
    expect([field, status, Object.keys(body.fields ?? {})]).toEqual([field, 400, [field]])
  }
  expect(await rulesNow()).toEqual(before)
})

it('a limit is tightened without a word, and the newest change of a field can be undone once', async () => {
  const before = await rulesNow()
  const tighter = { ...before, tolerance: 0.08, ceilingDays: before.ceilingDays - 10, operator }
  const { body: page } = await server.ask<ProbeView>(`${AT}/rules`, tighter)
  expect(page.changes.map((c) => [plain(c.what)?.replace(/:.*/, ''), c.undo])).toEqual([
    ['Longest interval', true],
    ['Tolerance', true],
    ['Tolerance', false],
  ])
  const older = page.changes[2]?.id
  expect((await server.ask<ProblemView>(`${AT}/changes/${older}/undo`, { operator })).body.code).toBe('changed-since')
  const id = page.changes[1]?.id
  const { body: back } = await server.ask<ProbeView>(`${AT}/changes/${id}/undo`, { operator: 'T. Quillan' })
  expect(back.figure.policy.tolerance).toBe(before.tolerance)
  expect(back.changes[0]).toMatchObject({ operator: 'T. Quillan', undo: false })
  expect(plain(back.changes[0]?.what ?? '')).toMatch(/Tolerance: 0\.08 pH, now 0\.2 pH \(undone\)/)
  expect((await server.ask(`${AT}/changes/${id}/undo`, { operator })).status).toBe(409)
  for (const none of ['99999', 'abc', '99999999999', '-1']) {
    expect((await server.ask(`${AT}/changes/${none}/undo`, { operator })).status).toBe(404)
  }
})

it('an undo that would cross the shortest and the longest interval changes nothing', async () => {
  const before = await rulesNow()
  await server.ask(`${AT}/rules`, { ...before, floorDays: 40, ceilingDays: 45, operator, why: 'Away' })
  const { body } = await server.ask<ProbeView>(`${AT}/rules`, { ...before, floorDays: 3, ceilingDays: 20, operator })
  const floor = body.changes.find((c) => plain(c.what)?.startsWith('Shortest interval'))
  const crossed = await server.ask<ProblemView>(`${AT}/changes/${floor?.id}/undo`, { operator })
  expect([crossed.status, crossed.body.code]).toEqual([409, 'rules-cross'])
  expect(await rulesNow()).toMatchObject({ floorDays: 3, ceilingDays: 20 })
  expect((await server.ask<ProbeView>(AT)).body.changes).toHaveLength(body.changes.length)
  await server.ask(`${AT}/rules`, { ...before, operator, why: 'Back' })
})

it('so do the ways of working of the site', async () => {
  const { body: site } = await server.ask<SiteView>('/api/site')
  expect(site.changes).toEqual([])
  const other = site.practices.dry === 'blot' ? 'shake' : 'blot'
  await server.ask('/api/site/schools', { operator, practices: { ...site.practices, dry: other } })
  const { changes } = (await server.ask<SiteView>('/api/site')).body
  expect(changes).toMatchObject([{ operator, undo: true }])
  await server.ask(`/api/site/changes/${changes[0]?.id}/undo`, { operator })
  expect((await server.ask<SiteView>('/api/site')).body.practices).toEqual(site.practices)
})

it('an event that is entered by hand stands with its author, and asks for a check from then on', async () => {
  const before = (await server.ask<ProbeView>(AT)).body
  const at = Date.now() - 3_600_000
  const { body: noted } = await server.ask<ProbeView>(`${AT}/events`, {
    operator,
    kind: 'unplugged',
    at,
    note: 'Cable replaced',
  })
  expect(noted.events.at(-1)).toMatchObject({ at, label: 'Unplugged', note: 'Cable replaced', operator })
  expect(noted.figure.next).toMatchObject({ limitedBy: 'event' })
  expect(noted.figure.next.at).toBeLessThanOrEqual(Date.now())
  expect(plain(noted.figure.next.reason)).toMatch(/^Unplugged, .*: check it before it is trusted again\.$/)
  expect(before.figure.next.at).toBeGreaterThan(noted.figure.next.at)

  const future = await server.ask<ProblemView>(`${AT}/events`, { operator, kind: 'upset', at: at + 7 * 86_400_000 })
  expect(future.body.fields?.at).toMatch(/not in the future/)
  expect((await server.ask(`${AT}/events`, { operator, kind: 'dreamt', at })).status).toBe(400)
  const { body: cleaned } = await server.ask<ProbeView>(`${AT}/events`, { operator, kind: 'cleaned', at: at + 1000 })
  expect(cleaned.events.at(-1)?.label).toBe('Cleaned between visits')
})
