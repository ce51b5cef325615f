import type { Mapping, ProbeView, ThingView } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { operator, ownSite } from '../support/ownSite.ts'

/** Two sensors in one water: what they read between visits, one beside the other, counts in the forecast. */

const TOKENS = { 'T1-pH': 'kQ3x9mZ7pL1vT5rN8wB2yC4d', 'T2-pH': 'rS5t7uV9wX1yZ3aB5cD7eF9g' }
const field = (name: string) => ({ at: { field: name }, unit: '', scale: 1, offset: 0 })
const MAPPING: Mapping = { countsFrom: 0, format: 'senml', value: field('ph') }
const HOUR_MS = DAY_MS / 24

it('two that part are in doubt from the day on which they did, and no more once a line is silent', async () => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater\nT2-pH,pH,Hall,seawater')
  for (const id of [1, 2]) {
    const { values } = await site.get<ThingView>(`rig/position/${id}`)
    const edited = { operator, values: { ...values, water: 'tank 1' }, seen: values, mode: 'wrong' }
    expect((await site.ask(`rig/position/${id}`, edited)).status).toBe(200)
  }
  const day = (at: number) => new Date(at).toISOString().slice(0, 10)
  const began = site.clock.now()
  const past = [90, 65, 40, 15].flatMap((ago, i) => [
    `${day(began - ago * DAY_MS)};T1-pH;7.01;10.0${i};7.00;25;97;-3;AF`,
    `${day(began - ago * DAY_MS)};T2-pH;7.00;10.0${i};7.00;25;99;-1;AF`,
  ])
  const { body } = await site.bring(
    ['Date;Tag;pH 7 before;pH 10 before;pH 7 after;Temp (°C);Slope (%);Offset (mV);By', ...past].join('\r\n'),
    { take: true },
  )
  expect(body.taken, JSON.stringify(body)).toBe(8)
  for (const [i, token] of Object.values(TOKENS).entries()) {
    await site.ask(`lines/${i + 1}/token`, { operator, token })
    await site.ask(`lines/${i + 1}`, { operator, protocol: 'push', mapping: MAPPING })
  }
  /** Readings of both, one an hour, for so many days. */
  const goOn = async (days: number, offset: number) => {
    const from = site.clock.now()
    site.clock.set(from + days * DAY_MS)
    for (const [code, token] of Object.entries(TOKENS)) {
      const all = Array.from({ length: 24 * days }, (_, i) => {
        const at = from + i * HOUR_MS
        const water = 8.1 + 0.1 * Math.sin((2 * Math.PI * at) / DAY_MS)
        return { n: 'ph', t: at / 1000, v: water + (code === 'T1-pH' ? offset : 0) }
      })
      const sent = await fetch(`${site.url()}/api/ingest/${token}`, { method: 'POST', body: JSON.stringify(all) })
      expect(sent.status).toBe(200)
    }
    // What is forecast is computed anew by the hour.
    site.clock.set(site.clock.now() + HOUR_MS)
  }
  const nextOf = async (code: string) => (await site.get<ProbeView>(`probes/${code}`)).figure
  const alone = await nextOf('T1-pH')
  expect(alone.next.at).toBeGreaterThan(began)

  await goOn(5, 0)
  const agreed = await nextOf('T1-pH')
  expect(agreed.from).toBeGreaterThan(alone.from)
  expect(agreed.outside).toBeLessThan(0.05)
  expect(plain(agreed.next.reason)).not.toContain('beside it')

  const strayed = site.clock.now()
  await goOn(4, 0.5)
  const apart = await nextOf('T1-pH')
  // Nothing tells which of them it is; one of them it must be.
  expect(apart.outside + (await nextOf('T2-pH')).outside).toBeGreaterThan(0.9)
  // From the first of the days on, and not from the newest: a date that came stays.
  expect(Math.abs(apart.next.at - strayed) / DAY_MS).toBeLessThan(2)
  expect(plain(apart.next.reason)).toContain('It reads 0.50 pH more than T2-pH beside it.')
  expect(plain((await nextOf('T2-pH')).next.reason)).toContain('It reads 0.50 pH less than T1-pH beside it.')
  // A line that falls silent says nothing any more.
  site.clock.set(site.clock.now() + 6 * DAY_MS)
  expect((await nextOf('T1-pH')).from).toBe(alone.from)
})
