import { mkdtempSync, rmSync } from 'node:fs'
import { createServer } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type AlarmKind, DAY_MS } from '@frustum/core'
import fc from 'fast-check'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { heavy } from '../../../lab/src/fixtures/heavy.ts'
import { newSite } from '../../../lab/src/fixtures/newSite.ts'
import { endAlarm, lastingAlarms, noteOfAlarm, raiseAlarm, setAlarms } from '../alarms/alarmStore.ts'
import { type Database, type OpenDatabase, openDatabaseIn } from '../database/open.ts'
import { alarms, connections, devices, messages, positions, recipients, sites, toldAlarms } from '../database/schema.ts'
import { grouped } from '../grouped.ts'
import { deliver } from './queue.ts'
import { currentRecipients } from './settings.ts'
import { siteText } from './siteText.ts'
import { tellOfAlarms } from './toldOfAlarms.ts'

const START = Date.UTC(2026, 2, 28, 12)
const MINUTE = 60_000
const folder = mkdtempSync(join(tmpdir(), 'frustum-told-'))

/** What a webhook received: of each message its id, whatever it answered. */
let received: { recipient: string; id: string; kind: string; alarms: { id: number }[] }[] = []
/** Answers in turn: a message is taken, refused, or taken without an answer. */
let answers: ('taken' | 'refused' | 'cut')[] = []
const hook = createServer((request, response) => {
  let text = ''
  request.on('data', (chunk) => {
    text += chunk
  })
  request.on('end', () => {
    const answer = answers.shift() ?? 'taken'
    if (answer !== 'refused') {
      const data = JSON.parse(text) as { id: string; kind: string; alarms: { id: number }[] }
      received.push({ ...data, recipient: request.url ?? '' })
    }
    if (answer === 'cut') response.destroy()
    else response.writeHead(answer === 'taken' ? 204 : 500).end()
  })
})

let open: OpenDatabase
beforeAll(async () => {
  open = await openDatabaseIn(folder)
  await open.db.insert(sites).values({ name: 'Mill', timeZone: 'UTC' })
  await new Promise<void>((resolve) => hook.listen(0, '127.0.0.1', resolve))
})
afterAll(async () => {
  hook.close()
  await open.close()
  rmSync(folder, { recursive: true, force: true })
})

const KINDS = [
  'no-room',
  'not-watched',
  'clock-set',
  'hold-forgotten',
  'numbers-changed',
] as const satisfies AlarmKind[]
const step = fc.oneof(
  { weight: 3, arbitrary: fc.record({ do: fc.constant('raise' as const), kind: fc.constantFrom(...KINDS) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('end' as const), kind: fc.constantFrom(...KINDS) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('acknowledge' as const) }) },
  { weight: 4, arbitrary: fc.record({ do: fc.constant('look' as const), minutes: fc.integer({ min: 0, max: 40 }) }) },
  // Killed before the transaction is on disk; what comes next is a new process with what is there.
  { weight: 1, arbitrary: fc.record({ do: fc.constant('killed' as const) }) },
)

/** A database whose process is killed at the end of its next transaction, before it is on disk. */
const killedIn = (db: Database): Database =>
  new Proxy(db, {
    get(of, key) {
      if (key !== 'transaction') return Reflect.get(of, key)
      return (work: Parameters<Database['transaction']>[0]) =>
        of.transaction(async (tx) => {
          await work(tx)
          throw new Error('killed')
        })
    },
  })

it('each event is told once to each recipient, through kills and recipients that fail, and its end at most once', async () => {
  const { db } = open
  const address = `http://127.0.0.1:${(hook.address() as { port: number }).port}`
  const history = fc.record({
    steps: fc.array(step, { minLength: 5, maxLength: 25 }),
    answers: fc.array(fc.constantFrom('taken', 'refused', 'cut'), { maxLength: 12 }),
  })
  await fc.assert(
    fc.asyncProperty(history, async (run) => {
      await db.delete(messages)
      await db.delete(toldAlarms)
      await db.$client.exec('delete from alarm_entries; delete from alarms; delete from recipients')
      received = []
      answers = [...run.answers] as typeof answers
      const wishes = { alarms: 'notice', from: 0, to: 0, repeatMinutes: 0, digestHour: null, reminders: false } as const
      for (const afterMinutes of [0, 10])
        await db.insert(recipients).values({
          name: `after ${afterMinutes}`,
          by: 'webhook',
          address: `${address}/after-${afterMinutes}`,
          wishes: { ...wishes, afterMinutes },
          since: new Date(START),
        })
      const site = await siteText(db)
      if (!site) throw new Error('There is a site.')
      let now = START
      const look = async () => {
        await tellOfAlarms(db, await currentRecipients(db), site, now)
        await deliver(db, now, null)
      }
      for (const s of run.steps) {
        now += 1000
        if (s.do === 'raise') {
          await raiseAlarm(db, { kind: s.kind, positionId: null, at: now })
          // Both are over as soon as they are known.
          if (s.kind === 'not-watched' || s.kind === 'clock-set') await setAlarms(db, [s.kind], [], now)
        } else if (s.do === 'end') await setAlarms(db, [s.kind], [], now)
        else if (s.do === 'acknowledge') {
          const [alarm] = await lastingAlarms(db)
          if (alarm)
            await noteOfAlarm(db, alarm.id, { operator: 'A. Fenn', at: new Date(now) }, { what: 'acknowledged' })
        } else if (s.do === 'killed') {
          await tellOfAlarms(killedIn(db), await currentRecipients(db), site, now).catch(() => undefined)
        } else {
          now += s.minutes * MINUTE
          await look()
        }
      }
      // Everything that can still arrive does.
      answers = []
      for (let i = 0; i < 14; i++) {
        now += 70 * MINUTE
        await look()
      }
      const seen = await db.$client.query<{ id: number }>(
        "select distinct alarm_id as id from alarm_entries where what = 'acknowledged'",
      )
      const acknowledged = new Set(seen.rows.map((r) => r.id))
      for (const { id, kind, returnedAt } of await db.select().from(alarms)) {
        for (const recipient of ['/after-0', '/after-10']) {
          const of = (what: string) =>
            new Set(
              received
                .filter((m) => m.recipient === recipient && m.kind === what && m.alarms.some((a) => a.id === id))
                .map((m) => m.id),
            ).size
          const [raised, over] = [of('alarms'), of('over')]
          expect([kind, raised, over]).toSatisfy(() => raised <= 1 && over <= raised)
          const isOverAtOnce = kind === 'not-watched' || kind === 'clock-set'
          if (isOverAtOnce) expect([kind, raised, over]).toEqual([kind, 1, 0])
          // Whoever isn't reached learns of others alone.
          else if (returnedAt === null && !acknowledged.has(id) && kind !== 'not-told')
            expect([kind, raised]).toEqual([kind, 1])
        }
      }
    }),
    { numRuns: heavy(8, 300), seed: 36 },
  )
})

it('a storm and its recovery are one message each, which say how many sensors and which connection', async () => {
  const codes = Array.from({ length: 12 }, (_, i) => `T${i + 1}-pH`)
  const db = await newSite(codes, START - DAY_MS)
  await db.insert(connections).values({ name: 'Hall gateway', protocol: 'modbus-tcp' })
  await db.update(devices).set({ connectionId: 1 })
  const ids = (await db.select({ id: positions.id }).from(positions)).map((p) => p.id)
  const wishes = { alarms: 'notice', from: 0, to: 0, repeatMinutes: 0, digestHour: null, reminders: false } as const
  for (const afterMinutes of [0, 10])
    await db.insert(recipients).values({
      name: `after ${afterMinutes}`,
      by: 'webhook',
      address: 'http://127.0.0.1:1/',
      wishes: { ...wishes, afterMinutes },
      since: new Date(START),
    })
  const site = await siteText(db)
  if (!site) throw new Error('There is a site.')
  let now = START
  const pass = async (seconds: number) => {
    for (let i = 0; i < seconds; i++) {
      now += 1000
      await tellOfAlarms(db, await currentRecipients(db), site, now)
    }
  }
  // One after the other, as each is found silent.
  for (const positionId of ids) {
    await raiseAlarm(db, { kind: 'blind', positionId, at: now })
    await pass(4)
  }
  await pass(15 * 60)
  for (const positionId of ids) {
    await endAlarm(db, { kind: 'blind', positionId }, now)
    await pass(4)
  }
  await pass(5 * 60)
  const sent = await db.select({ to: messages.recipientId, subject: messages.subject }).from(messages)
  const subjects = grouped(sent, (m) => m.to)
  expect([...subjects.values()].map((of) => of.map((m) => m.subject))).toEqual([
    ['Mill: 12 sensors on Hall gateway send no data', 'Mill: 12 sensors on Hall gateway send data again'],
    ['Mill: 12 sensors on Hall gateway send no data', 'Mill: 12 sensors on Hall gateway send data again'],
  ])
})
