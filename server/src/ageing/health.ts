import {
  ageingSeries,
  type BodyVisit,
  type ClosedVisit,
  DAY_MS,
  type Diagnosis,
  diagnose,
  diagnosed,
  type EndOfLife,
  evidenceOf,
  firstEnd,
  type HealthEvidence,
  type HealthRecord,
  healthVisits,
  kindOf,
  nullIfOutOfRange,
  orderBy,
  type SharedReference,
  sensorEvent,
  separateSharedReference,
  settlingSeconds,
  zeroOf,
} from '@frustum/core'
import { asc, desc } from 'drizzle-orm'
import { derived } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import { events, testAnswers } from '../database/schema.ts'
import { changedDeviceCalibrations } from '../devices/deviceCalibration.ts'
import { lineFacts } from '../records/setup.ts'
import { earlierInstallations, type Installed } from '../sensors.ts'
import { endsOf } from './ends.ts'
import { type ClosedVisitRow, closedVisits, findingsOf } from './pastVisits.ts'

/** What is known of the health of an installed sensor. */
export interface SensorHealth {
  record: HealthRecord
  evidence: HealthEvidence
  diagnosis: Diagnosis
  ends: EndOfLife[]
  end: EndOfLife | null
  /** When to order a spare; null as long as no end has a date. */
  orderBy: number | null
  settling: { at: number; seconds: number }[]
  /** Of its body, where it shares a reference. */
  shared: SharedReference | null
}

/** The health of these sensors. */
export async function computeHealth(
  db: Database,
  installed: readonly Installed[],
  now: number,
): Promise<ReadonlyMap<number, SensorHealth>> {
  const earlier = await earlierInstallations(db, installed)
  const seen = await closedVisits(db, installed, earlier)
  const changed = await changedDeviceCalibrations(db, installed)
  for (const i of installed) {
    const last = seen.get(i.installation.id)?.at(-1)
    if (!last) continue
    last.codes = await findingsOf(db, last, last.installationId === i.installation.id ? i : undefined)
    // Only a device on a line can be asked what it holds.
    last.numbersChanged = lineFacts(i).readsBack ? changed.has(i.installation.id) : null
  }
  const happened = await db.select().from(events).orderBy(asc(events.at))
  const answers = await testsOf(db)
  const bodies = sharedBodies(installed, seen)
  const ageing = new Map(
    installed.map(({ installation: { id }, position }) => [
      id,
      ageingSeries(
        kindOf(position.kind).health,
        (seen.get(id) ?? []).map((v) => ({
          at: v.at,
          characteristic: v.characteristic,
          settlingSeconds: settlingSeconds(v),
        })),
        happened.filter((e) => e.installationId === id && sensorEvent(e.kind)?.cuts).map((e) => e.at.getTime()),
      ),
    ]),
  )
  const allEnds = await endsOf(db, ageing, now)
  return new Map(
    installed.map((i) => {
      const { id } = i.installation
      const { health: traits, model } = kindOf(i.position.kind)
      const own = seen.get(id) ?? []
      const before = earlier.get(id) ?? []
      const everywhere = [...before.map((e) => e.id), id]
      const shared = (i.position.body && bodies.get(i.position.body)) || null
      const record: HealthRecord = {
        traits,
        visits: healthVisits(
          { ...i.position, traits, model, device: i.device.setting },
          own.map((v) => ({ ...v, shift: shiftAt(shared, v.at, i.position.code) })),
        ),
        events: happened
          .filter((e) => everywhere.includes(e.installationId))
          .map((e) => ({ at: e.at.getTime(), kind: e.kind })),
        installedAt: (before[0] ?? i.installation).installedAt.getTime(),
        now,
        tests: answers.get(id) ?? {},
      }
      const evidence = evidenceHeld(db, id, record)
      const settling = own.flatMap((v) => {
        const seconds = settlingSeconds(v)
        return seconds === null ? [] : [{ at: v.at, seconds }]
      })
      const ends = allEnds.get(id) ?? []
      const diagnosis = diagnose(traits, evidence, { sealed: isSealed(i.sensor.model) })
      const end = firstEnd(ends, diagnosis.tooLittle ? null : diagnosed(diagnosis), now)
      return [
        id,
        {
          record,
          evidence,
          diagnosis,
          ends,
          end,
          orderBy: end && orderBy(end, i.position.spareLeadDays, now),
          settling,
          shared,
        },
      ]
    }),
  )
}

/** Evidence is computed anew only for sensors of which something new is known, and once a day for its age. */
const evidenceHeld = (db: Database, id: number, record: HealthRecord): HealthEvidence =>
  derived(
    db,
    `evidence of ${id}`,
    [JSON.stringify({ ...record, traits: null, now: Math.floor(record.now / DAY_MS) })],
    () => evidenceOf(record),
  )

/** What the round of visits around an instant said of the shared reference. */
function shiftAt(shared: SharedReference | null, at: number, code: string): ClosedVisit['shift'] {
  const round = shared?.visits.find((v) => Math.abs(v.at - at) < 2 * DAY_MS)
  return round ? { common: round.common, own: round.own.find((o) => o.electrode === code)?.shift ?? null } : null
}

async function testsOf(db: Database): Promise<Map<number, HealthEvidence>> {
  const rows = await db.select().from(testAnswers).orderBy(desc(testAnswers.id))
  const byId = new Map<number, Record<string, string>>()
  for (const row of rows) {
    const of = byId.get(row.installationId) ?? {}
    byId.set(row.installationId, of)
    of[row.feature] ??= row.answer
  }
  return byId as Map<number, HealthEvidence>
}

/** Bodies with a shared reference: how far the zeros of their electrodes moved from one round of visits to the next. */
function sharedBodies(
  installed: readonly Installed[],
  seen: ReadonlyMap<number, ClosedVisitRow[]>,
): Map<string, SharedReference> {
  const found = new Map<string, SharedReference>()
  for (const body of new Set(installed.flatMap((i) => i.position.body ?? []))) {
    const members = installed.filter((i) => i.position.body === body && kindOf(i.position.kind).health.zeroKey !== null)
    if (members.length < 2) continue
    const separated = nullIfOutOfRange(() => separateSharedReference(roundsOf(members, seen)))
    if (separated && separated.visits.length > 0) found.set(body, separated)
  }
  return found
}

/** Visits to one body within so many days are one round. */
const ROUND_DAYS = 3

function roundsOf(members: readonly Installed[], seen: ReadonlyMap<number, ClosedVisitRow[]>): BodyVisit[] {
  const zeros = members
    .flatMap(({ installation, position }) =>
      (seen.get(installation.id) ?? []).flatMap((v) => {
        const { health: traits } = kindOf(position.kind)
        const zero = zeroOf(traits, v.characteristic)
        const half = zeroOf(traits, v.uncertainty)
        return zero === null
          ? []
          : [{ at: v.at, electrode: position.code, zero, uncertainty: Math.max(half ?? 1, 0.3) }]
      }),
    )
    .toSorted((a, b) => a.at - b.at)
  const rounds: BodyVisit[] = []
  const last = new Map<string, (typeof zeros)[number]>()
  let start = 0
  while (start < zeros.length) {
    const from = (zeros[start] as (typeof zeros)[number]).at
    const together = zeros.slice(start).filter((z) => z.at < from + ROUND_DAYS * DAY_MS)
    const shifts = together.flatMap((z) => {
      const before = last.get(z.electrode)
      return before
        ? [
            {
              electrode: z.electrode,
              shift: z.zero - before.zero,
              uncertainty: Math.hypot(z.uncertainty, before.uncertainty),
            },
          ]
        : []
    })
    const before = together.flatMap((z) => last.get(z.electrode)?.at ?? [])
    if (shifts.length > 0) rounds.push({ at: from, days: Math.max(1, (from - Math.max(...before)) / DAY_MS), shifts })
    for (const z of together) last.set(z.electrode, z)
    start += together.length
  }
  return rounds
}

/** By what the sensor was called when it was put in: a gel, or sealed. */
const isSealed = (model: string) => /\b(gel|sealed)\b/i.test(model)
