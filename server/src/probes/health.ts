import {
  ageingSeries,
  type BodyVisit,
  type CapturedReading,
  type Characteristic,
  DAY_MS,
  type Diagnosis,
  diagnose,
  type EndOfLife,
  endOfLife,
  evidenceOf,
  type FindingCode,
  firstEnd,
  type HealthEvidence,
  type HealthVisit,
  median,
  orderBy,
  type SharedReference,
  separateSharedReference,
  within,
} from '@frustum/core'
import { and, asc, desc, inArray, isNotNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { calibrations, events, testAnswers, visitEntries, visits } from '../database/schema.ts'
import { type Installed, installedSensors } from '../sensors.ts'
import { openVisit } from '../visits/records.ts'
import { revisionOf } from './forecasts.ts'

/** What is known of the health of an installed sensor. */
export interface SensorHealth {
  evidence: HealthEvidence
  diagnosis: Diagnosis
  ends: EndOfLife[]
  end: EndOfLife | null
  /** When to order a spare; null as long as no end is in sight. */
  orderBy: number | null
  settling: { at: number; seconds: number }[]
  /** Of its body, where it shares a reference. */
  shared: SharedReference | null
}

type Healths = ReadonlyMap<number, SensorHealth>

const kept = new WeakMap<Database, { revision: string; healths: Promise<Healths> }>()

/** The health of all installed sensors; reckoned anew when something was recorded, or when an hour has passed. */
export async function siteHealth(db: Database, now: number): Promise<Healths> {
  const revision = `${await revisionOf(db)} ${Math.floor(now / 3_600_000)}`
  const last = kept.get(db)
  if (last?.revision === revision) return last.healths
  const healths = reckon(db, now)
  kept.set(db, { revision, healths })
  healths.catch(() => kept.delete(db))
  return healths
}

interface Seen {
  id: string
  at: number
  /** What the procedure found out of the ordinary; known of the newest visits only. */
  codes: readonly FindingCode[] | null
  characteristic: Characteristic | null
  uncertainty: Characteristic | null
  readings: { step: string; reading: CapturedReading }[]
}

async function reckon(db: Database, now: number): Promise<Healths> {
  const installed = await installedSensors(db)
  const seen = await visitsOf(
    db,
    installed.map((i) => i.installation.id),
  )
  for (const own of seen.values()) {
    const last = own.at(-1)
    if (last) last.codes = await findingsOf(db, last.id)
  }
  const happened = await db.select().from(events).orderBy(asc(events.at))
  const answers = await testsOf(db)
  const bodies = sharedBodies(installed, seen)
  return new Map(
    installed.map((i) => {
      const { id } = i.installation
      const own = seen.get(id) ?? []
      const shared = (i.position.body && bodies.get(i.position.body)) || null
      const evidence = evidenceOf({
        kind: i.position.kind,
        visits: own.map((v) => healthVisit(i, v, shared)),
        events: happened.filter((e) => e.installationId === id).map((e) => ({ at: e.at.getTime(), kind: e.kind })),
        installedAt: i.installation.installedAt.getTime(),
        now,
        tests: answers.get(id) ?? {},
      })
      const settling = own.flatMap((v) => {
        const seconds = settlingOf(v)
        return seconds === null ? [] : [{ at: v.at, seconds }]
      })
      const ends = ageingSeries(
        i.position.kind,
        own.map((v) => ({ at: v.at, characteristic: v.characteristic, settlingSeconds: settlingOf(v) })),
      ).map((series) => endOfLife(series, now))
      const end = firstEnd(ends)
      return [
        id,
        {
          evidence,
          diagnosis: diagnose(i.position.kind, evidence),
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

async function visitsOf(db: Database, ids: number[]): Promise<Map<number, Seen[]>> {
  if (ids.length === 0) return new Map()
  const closed = await db
    .select({ id: visits.id, installationId: visits.installationId, at: visits.startedAt })
    .from(visits)
    .where(and(inArray(visits.installationId, ids), isNotNull(visits.closedAt)))
    .orderBy(asc(visits.startedAt))
  const found = await db.select().from(calibrations).where(inArray(calibrations.installationId, ids))
  const byVisit = new Map(found.map((c) => [c.visitId, c]))
  const entries = await db
    .select({ visitId: visitEntries.visitId, entry: visitEntries.entry })
    .from(visitEntries)
    .orderBy(asc(visitEntries.visitId), asc(visitEntries.seq))
  const readings = new Map<string, Seen['readings']>()
  for (const { visitId, entry } of entries) {
    if (entry.type !== 'captured') continue
    const of = readings.get(visitId) ?? []
    readings.set(visitId, of)
    of.push({ step: entry.step, reading: entry.reading })
  }
  const seen = new Map<number, Seen[]>()
  for (const visit of closed) {
    const of = seen.get(visit.installationId) ?? []
    seen.set(visit.installationId, of)
    const calibration = byVisit.get(visit.id)
    of.push({
      id: visit.id,
      at: visit.at.getTime(),
      codes: null,
      characteristic: calibration?.characteristic ?? null,
      uncertainty: calibration?.uncertainty ?? null,
      readings: readings.get(visit.id) ?? [],
    })
  }
  return seen
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

/** What the result of a closed visit found, reckoned again from its record. */
async function findingsOf(db: Database, id: string): Promise<FindingCode[] | null> {
  const { procedure, progress } = await openVisit(db, null, id)
  const judged = within(() => procedure.judge(progress.evidence, 'result'))
  return judged?.findings.map((f) => f.code) ?? null
}

/** Findings that say that the standards and not the sensor are wrong, or the temperature, or the tank alone. */
const STANDARDS_DISAGREE: readonly FindingCode[] = [
  'standards-swapped',
  'wrong-standard',
  'segments-disagree',
  'slope-high',
]
const TEMPERATURE_WRONG: readonly FindingCode[] = ['wrong-temperature-input', 'temperature-implausible']
/** As evidence counts them: degC and tolerances well beyond the limit between the words. */
const CLEARLY = 2

function settlingOf({ readings }: Seen): number | null {
  const seconds = readings.flatMap(({ reading }) =>
    reading.standard && !reading.earlyReason ? [reading.stability.seconds] : [],
  )
  return seconds.length > 0 ? median(seconds) : null
}

/** The zero of a kind in mV, where it has one. */
const zeroOf = (kind: string, c: Characteristic | null): number | null =>
  kind === 'orp' ? (c?.offset ?? null) : kind === 'ph' || kind === 'ion' ? (c?.zero ?? null) : null

function healthVisit(i: Installed, seen: Seen, shared: SharedReference | null): HealthVisit {
  const { kind, processValue } = i.position
  const c = seen.characteristic
  const cell = kind === 'conductivity'
  const separated = shared?.visits.find((v) => Math.abs(v.at - seen.at) < 2 * DAY_MS)
  const { cleaning, hysteresis } = again(seen, cell)
  return {
    at: seen.at,
    zero: cell ? (c ? (c.zero ?? 0) / processValue : null) : zeroOf(kind, c),
    slope: kind === 'orp' ? (c?.gain ?? null) : (c?.slopeEfficiency ?? null),
    settlingSeconds: settlingOf(seen),
    noise: null,
    hysteresis,
    cleaning,
    cellFactor: cell ? (c?.factor ?? null) : null,
    tankAlone: seen.codes?.includes('beaker-right-tank-wrong') ? CLEARLY : null,
    temperatureError: seen.codes?.some((c) => TEMPERATURE_WRONG.includes(c)) ? CLEARLY : null,
    standardsDisagree: seen.codes?.some((c) => STANDARDS_DISAGREE.includes(c)) ?? null,
    sharedShift: separated?.common ?? null,
    ownShift: separated?.own.find((o) => o.electrode === i.position.code)?.shift ?? null,
    junctionResistance: null,
    glassResistance: null,
    deviceNumbersChanged: null,
  }
}

/** What the same standard read before and after cleaning, and on the way back from the second. */
function again({ readings }: Seen, share: boolean): { cleaning: number | null; hysteresis: number | null } {
  const found = readings.find((r) => r.step.startsWith('found') && r.reading.standard)
  const code = found?.reading.standard?.code
  const after = readings.filter((r) => r !== found && r.reading.standard?.code === code)
  const first = after[0]
  const back = after.length > 1 ? after.at(-1) : undefined
  const moved = (a: CapturedReading, b: CapturedReading) =>
    share ? (b.signal - a.signal) / b.signal : b.signal - a.signal
  return {
    cleaning: found && first ? moved(found.reading, first.reading) : null,
    hysteresis: !share && first && back ? moved(first.reading, back.reading) : null,
  }
}

/** Bodies with a shared reference: how far the zeros of their electrodes moved from one round of visits to the next. */
function sharedBodies(
  installed: readonly Installed[],
  seen: ReadonlyMap<number, Seen[]>,
): Map<string, SharedReference> {
  const found = new Map<string, SharedReference>()
  for (const body of new Set(installed.flatMap((i) => i.position.body ?? []))) {
    const members = installed.filter(
      (i) => i.position.body === body && zeroOf(i.position.kind, { zero: 0, offset: 0 }) !== null,
    )
    if (members.length < 2) continue
    const separated = within(() => separateSharedReference(roundsOf(members, seen)))
    if (separated && separated.visits.length > 0) found.set(body, separated)
  }
  return found
}

/** Visits to one body within so many days are one round. */
const ROUND_DAYS = 3

function roundsOf(members: readonly Installed[], seen: ReadonlyMap<number, Seen[]>): BodyVisit[] {
  const zeros = members
    .flatMap(({ installation, position }) =>
      (seen.get(installation.id) ?? []).flatMap((v) => {
        const zero = zeroOf(position.kind, v.characteristic)
        const half = zeroOf(position.kind, v.uncertainty)
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
