import fc from 'fast-check'
import { expect, it } from 'vitest'
import { heavy } from '../../../lab/src/fixtures/heavy.ts'
import { newDatabase } from '../../../lab/src/fixtures/newSite.ts'
import { alarms } from '../database/schema.ts'
import { Interruptions } from './interruptions.ts'

const SECOND = 1000
const MINUTE = 60 * SECOND
const START = Date.UTC(2026, 2, 28, 12)

/** A machine whose clock can be set, with a server that is looked at every ten seconds while it runs. */
async function machine() {
  const { db } = await newDatabase()
  let steady = 0
  let offset = START
  const clock = { now: () => steady + offset, rate: 1 }
  const start = () => new Interruptions(db, clock, 2 * MINUTE, () => steady)
  let server = start()
  const run = async (ms: number) => {
    for (let passed = 0; passed < ms; passed += 10 * SECOND) {
      steady += 10 * SECOND
      await server.look()
    }
  }
  const set = (ms: number) => {
    offset += ms
    server.clockChanged(ms)
  }
  /** Off for a while. The clock may be wrong at the next start. */
  const off = (ms: number, wrongBy = 0) => {
    steady += ms
    offset += wrongBy
    server = start()
  }
  const events = async () => {
    const rows = await db.select().from(alarms)
    return rows.map(({ kind, value, raisedAt, returnedAt }) => {
      expect(returnedAt?.getTime()).toBeGreaterThanOrEqual(raisedAt.getTime())
      return { kind, value: Math.round(value ?? Number.NaN) }
    })
  }
  await run(5 * MINUTE)
  return { db, run, set, off, events }
}

it('a power failure, the restarts after it and the correction of the clock are one event', async () => {
  const { run, set, off, events } = await machine()
  expect(await events()).toEqual([])
  off(40 * MINUTE, -30 * MINUTE)
  await run(20 * SECOND)
  off(MINUTE)
  await run(30 * SECOND)
  set(30 * MINUTE)
  await run(MINUTE)
  expect(await events()).toEqual([])
  await run(5 * MINUTE)
  // Includes the twenty seconds of running between the two starts.
  expect(await events()).toEqual([{ kind: 'not-watched', value: 41 }])
  await run(10 * MINUTE)
  set(2 * 60 * MINUTE)
  await run(30 * SECOND)
  set(-60 * MINUTE)
  await run(10 * MINUTE)
  expect((await events()).slice(1)).toEqual([{ kind: 'clock-set', value: 3600 }])
})

it('a short restart, and a change of the clock that is reversed at once, are no event', async () => {
  const { run, set, off, events } = await machine()
  off(5 * MINUTE)
  await run(5 * MINUTE)
  set(60 * MINUTE)
  await run(MINUTE)
  set(-60 * MINUTE)
  await run(5 * MINUTE)
  expect(await events()).toEqual([])
  off(20 * MINUTE, -3 * 24 * 60 * MINUTE)
  await run(5 * MINUTE)
  const [event] = await events()
  expect(event?.kind).toBe('clock-set')
  expect(event?.value).toBeLessThan(-2 * 24 * 3600)
})

it('each group of interruptions is reported at most once, and always if it was long', async () => {
  const step = fc.oneof(
    fc.record({ do: fc.constant('off' as const), minutes: fc.integer({ min: 1, max: 60 }) }),
    fc.record({ do: fc.constant('set' as const), minutes: fc.integer({ min: -200, max: 200 }) }),
  )
  const group = fc.array(step, { minLength: 1, maxLength: 5 })
  await fc.assert(
    fc.asyncProperty(fc.array(group, { minLength: 1, maxLength: 4 }), async (groups) => {
      const { db, run, set, off, events } = await machine()
      for (const steps of groups) {
        await db.$client.exec('delete from alarm_entries; delete from alarms')
        for (const s of steps) {
          if (s.do === 'off') off(s.minutes * MINUTE)
          else set(s.minutes * MINUTE)
          await run(50 * SECOND)
        }
        await run(5 * MINUTE)
        const found = await events()
        expect(found.length).toBeLessThanOrEqual(1)
        const jumps = steps.reduce((sum, s) => sum + (s.do === 'set' ? s.minutes : 0), 0)
        const longest = Math.max(0, ...steps.map((s) => (s.do === 'off' ? s.minutes : 0)))
        const wasSet = steps.some((s) => s.do === 'set')
        if (longest > 16 && !wasSet) expect(found).toMatchObject([{ kind: 'not-watched' }])
        if (longest === 0 && Math.abs(jumps) > 1) expect(found).toEqual([{ kind: 'clock-set', value: 60 * jumps }])
      }
    }),
    { numRuns: heavy(4, 100), seed: 36 },
  )
})
