import { createHash } from 'node:crypto'
import { once } from 'node:events'
import type { MessagePort } from 'node:worker_threads'
import type { BringPastOptions, BringPastView, VisitSettings } from '@frustum/contract'
import {
  type ClosedRecord,
  errorQuantity,
  type FindingCode,
  type FoundThen,
  type KnownHistory,
  modelOf,
  type Observation,
  type OwnStandard,
  type PastCalibration,
  parametersSentence,
  pastSeries,
  type RecordLine,
  render,
  type SensorKind,
  type Setup,
  say,
  standardOf,
  type TakenVisit,
  takeOwnStandards,
} from '@frustum/core'
import { grouped } from '../grouped.ts'
import { recordAfter } from '../records/recordAfter.ts'
import { type PastRow, type ReadRow, readPastRows } from './pastRows.ts'
import readSheets from './readSheets.ts'

/** Reads a list of past calibrations, and computes what becomes of each row. Runs in a thread of its own. */

/** A sensor at a position, as far as its past is judged by it. */
export interface PastSensor {
  installationId: number
  code: string
  /** All that its position was ever called, in lower case. */
  codes: readonly string[]
  serial: string
  kind: SensorKind
  standing: Parameters<typeof pastSeries>[0]
  /** Epoch ms. */
  from: number
  to: number | null
  /** Whether it may have been there before: nobody knows since when. */
  mayBeOlder: boolean
  known: KnownHistory
  /** When it was visited, epoch ms. */
  visits: readonly number[]
}

export interface PastTask {
  bytes: Uint8Array
  name: string
  options: BringPastOptions
  sensors: readonly PastSensor[]
  /** Of the site's own: this thread does not know them by itself. */
  standards: readonly OwnStandard[]
  timeZone: string
  now: number
  /** Takes the visits in, a few at a time; missing where they are only looked at. */
  port?: MessagePort
}

/** A visit as it is written down. */
export interface VisitToKeep {
  id: string
  installationId: number
  operator: string
  at: number
  procedure: string
  settings: VisitSettings
  setup: Setup
  lines: readonly RecordLine[]
  record: ClosedRecord
  findings: readonly FindingCode[] | null
  found: FoundThen | null
  observation: Observation | null
}

export interface PastAnswer {
  view: BringPastView
}

/** So many visits are handed over at once: few enough that what else is asked waits only a moment. */
const BATCH = 10

export default async function bringPast(task: PastTask): Promise<PastAnswer | { problem: string }> {
  const read = await readSheets(task)
  if ('problem' in read) return read
  takeOwnStandards(task.standards)
  const sheet = read.sheets[task.options.sheet] ?? read.sheets[0]
  const sha256 = createHash('sha256').update(task.bytes).digest('hex')
  const past = readPastRows(sheet?.rows ?? [], task.options, {
    file: task.name,
    sha256,
    timeZone: task.timeZone,
    now: task.now,
    find: finder(task),
  })
  const { rows, visits } = judge(past.rows, task)
  const view: BringPastView = {
    sheets: read.sheets.map((s) => s.name),
    sheet: sheet ? read.sheets.indexOf(sheet) : 0,
    headingRow: past.headingRow,
    firstRows: past.firstRows,
    headers: [...past.headers],
    columns: past.columns,
    asked: past.asked,
    answers: past.answers,
    someWithoutSensor: past.someWithoutSensor,
    rows,
    taken: null,
    sha256,
  }
  const wrong = rows.some((r) => r.state === 'wrong')
  const taken = task.port && past.asked.length === 0 && (!wrong || task.options.leaveOut) ? visits : []
  if (task.port) await handOver(taken, task.port)
  return { view }
}

async function handOver(visits: readonly VisitToKeep[], port: MessagePort): Promise<void> {
  for (let i = 0; i < visits.length; i += BATCH) {
    port.postMessage({ of: visits.length, visits: visits.slice(i, i + BATCH) })
    // The next are sent when these are written; who hangs up wants none of them.
    const heard = new AbortController()
    const next = await Promise.race([
      once(port, 'message', heard).then(() => true),
      once(port, 'close', heard).then(() => false),
    ])
    heard.abort()
    if (!next) return
  }
  port.close()
}

const days = new Map<string, Intl.DateTimeFormat>()

function dayOf(at: number, timeZone: string): string {
  const format =
    days.get(timeZone) ??
    new Intl.DateTimeFormat('en-GB', { timeZone, day: 'numeric', month: 'short', year: 'numeric' })
  days.set(timeZone, format)
  return format.format(at)
}

function finder({ sensors, timeZone }: PastTask): Parameters<typeof readPastRows>[2]['find'] {
  const byCode = grouped(
    sensors.flatMap((sensor) => sensor.codes.map((code) => ({ code, sensor }))),
    (one) => one.code,
  )
  const bySerial = grouped(
    sensors.filter((s) => s.serial !== ''),
    (s) => s.serial.toLowerCase(),
  )
  return (code, serial, at) => {
    const named = code === '' ? null : (byCode.get(code.toLowerCase()) ?? []).map((one) => one.sensor)
    // A column of codes may hold serial numbers too.
    const numbered = bySerial.get((serial || code).toLowerCase())
    const possible = named && named.length > 0 ? named : (numbered ?? [])
    if (possible.length === 0) {
      const wrong = `There is no sensor "${code || serial}" here. Bring in the list of sensors first, or add it on Rig.`
      return { wrong: { [code === '' ? 'serial' : 'code']: wrong } }
    }
    const there = possible.filter((s) => (s.mayBeOlder || at >= s.from) && (s.to === null || at < s.to))
    const meant = there.find((s) => serial === '' || s.serial === '' || s.serial.toLowerCase() === serial.toLowerCase())
    if (meant) return { installationId: meant.installationId, kind: meant.kind, device: meant.standing.device }
    const [other] = there
    if (other) {
      return { wrong: { serial: `Then ${other.code} had the sensor ${other.serial}, as far as is known here.` } }
    }
    const first = possible.reduce((a, b) => (b.from < a.from ? b : a))
    return {
      wrong: { date: `Its sensor is there since ${dayOf(first.from, timeZone)} only; this was one before it.` },
    }
  }
}

type ViewRow = BringPastView['rows'][number]

/** What becomes of each row, and the visits that come of it, sensor by sensor. */
function judge(read: readonly ReadRow[], task: PastTask): { rows: ViewRow[]; visits: VisitToKeep[] } {
  const outcomes = new Map<number, ViewRow>()
  const visits: VisitToKeep[] = []
  for (const row of read) {
    if ('wrong' in row) {
      outcomes.set(row.number, {
        number: row.number,
        code: row.code,
        state: 'wrong',
        what: '',
        wrong: row.wrong as Record<string, string>,
      })
    }
  }
  const good = read.filter((row): row is PastRow => !('wrong' in row))
  const sensors = new Map(task.sensors.map((s) => [s.installationId, s]))
  for (const [id, rows] of grouped(good, (row) => row.sensor.installationId)) {
    const sensor = sensors.get(id) as PastSensor
    const { taken, said } = oncePerInstant(rows, sensor, task.timeZone)
    for (const [number, outcome] of said) outcomes.set(number, { number, code: sensor.code, ...outcome })
    const ordered = [...taken].sort((a, b) => a.past.at - b.past.at)
    pastSeries(
      sensor.standing,
      sensor.known,
      ordered.map((t) => t.past),
    ).forEach((visit, i) => {
      const { row, past, further } = ordered[i] as (typeof ordered)[number]
      const common = { number: row.number, code: sensor.code }
      if ('problem' in visit) {
        const wrong = { before1: visit.problem }
        // All rows of a visit go with it.
        for (const number of [row.number, ...further]) {
          outcomes.set(number, { number, code: sensor.code, state: 'wrong', what: '', wrong })
        }
        return
      }
      const what = [whatOf(visit, past, task.timeZone), row.said].filter(Boolean).join('; ')
      outcomes.set(row.number, { ...common, state: 'new', what, wrong: {} })
      visits.push(toKeep(visit, { sensor, row }))
    })
  }
  return { rows: [...outcomes.values()].sort((a, b) => a.number - b.number), visits }
}

interface Taken {
  row: PastRow
  past: PastCalibration
  /** Numbers of the rows that say more of the same visit. */
  further: readonly number[]
}

/** Rows of one visit become one; what is there already, or says it again, changes nothing. */
function oncePerInstant(rows: readonly PastRow[], { visits }: PastSensor, timeZone: string) {
  const said = new Map<number, Omit<ViewRow, 'number' | 'code'>>()
  const taken = new Map<number, Taken>()
  const days = new Set(visits.map((at) => dayOf(at, timeZone)))
  for (const row of rows) {
    const { past } = row
    if (days.has(dayOf(past.at, timeZone))) {
      said.set(row.number, {
        state: 'known',
        what: `a visit of ${dayOf(past.at, timeZone)} is here already`,
        wrong: {},
      })
      continue
    }
    const before = taken.get(past.at)
    if (!before) {
      taken.set(past.at, { row, past, further: [] })
      continue
    }
    const other = `row ${before.row.number}`
    if (sameRow(before.past, past)) {
      said.set(row.number, { state: 'known', what: `the same as ${other}`, wrong: {} })
    } else if (isFurtherPoint(before.past, past)) {
      taken.set(past.at, {
        ...before,
        past: joined(before.past, past),
        further: [...before.further, row.number],
      })
      said.set(row.number, { state: 'new', what: `one visit with ${other}`, wrong: {} })
    } else {
      const wrong = `${other} says something else of the same day; give each its time, or take one out.`
      said.set(row.number, { state: 'wrong', what: '', wrong: { date: wrong } })
    }
  }
  return { taken: [...taken.values()], said }
}

const factsOf = ({ points, reference, temperature, stated, calibrated }: PastCalibration) =>
  JSON.stringify({ points, reference, temperature, stated, calibrated })
const sameRow = (a: PastCalibration, b: PastCalibration) => factsOf(a) === factsOf(b)

/** A row for each standard of one visit: none of them twice. */
const isFurtherPoint = (a: PastCalibration, b: PastCalibration) =>
  b.points.length > 0 &&
  a.points.length > 0 &&
  b.points.every((p) => a.points.every((q) => q.standard !== p.standard)) &&
  Object.entries(b.stated).every(([key, value]) => (a.stated[key] ?? value) === value)

const joined = (a: PastCalibration, b: PastCalibration): PastCalibration => ({
  ...a,
  row: {
    ...a.row,
    ...Object.fromEntries(
      Object.entries(b.row).map(([key, v]) => [key in a.row ? `${key}, row ${b.row.row}` : key, v]),
    ),
  },
  // Each row may say how warm its own standard was.
  points: [a, b].flatMap(({ points, temperature }) => points.map((p) => ({ temperature, ...p }))),
  temperature: a.temperature ?? b.temperature,
  stated: { ...a.stated, ...b.stated },
  calibrated: a.calibrated || b.calibrated,
})

function whatOf(
  { found, observation, progress: { evidence } }: TakenVisit,
  past: PastCalibration,
  timeZone: string,
): string {
  const standards = past.points.map((p) => standardOf(p.standard).shortLabel).join(' and ')
  const parts = [
    standards,
    found ? render(parametersSentence(modelOf(evidence.setup.kind), found.characteristic)) : '',
    observation?.asFound == null
      ? 'error as found not known'
      : render(say`error as found ${errorQuantity(evidence, observation.asFound)}`),
    past.calibrated ? '' : 'nothing was changed',
  ]
  return `${dayOf(past.at, timeZone)}: ${parts.filter(Boolean).join(', ')}`
}

const NOT_NOTED = 'not noted'

function toKeep(visit: TakenVisit, { sensor, row }: { sensor: PastSensor; row: PastRow }): VisitToKeep {
  const { procedure, setup, startedAt, lines, progress, found, observation, findings, before } = visit
  const settings: VisitSettings = {
    standards: Object.fromEntries(Object.entries(setup.standards).map(([role, { code }]) => [role, code])),
    opening: {},
  }
  const operator = row.who || NOT_NOTED
  return {
    id: visitId(sensor, startedAt),
    installationId: sensor.installationId,
    operator,
    at: startedAt,
    procedure: procedure.id,
    settings,
    setup,
    lines,
    record: recordAfter(before, {
      procedure,
      setup,
      startedAt,
      progress,
      lines: lines.map((line) => ({ ...line, operator })),
      snapshot: { settings },
    }),
    findings,
    found,
    observation,
  }
}

/** Names of visits by what they are of: an identifier of its own, drawn by chance once. */
const NAMESPACE = Buffer.from('5f0d0d3c7a8e4c0f9b1d6a2f4e8c7b31', 'hex')

/** The same row has the same number wherever and however often it is taken in: name-based, RFC 9562 version 5. */
function visitId({ code, serial, kind }: PastSensor, at: number): string {
  const name = JSON.stringify([kind, serial || code, at])
  const bytes = createHash('sha1').update(NAMESPACE).update(name).digest().subarray(0, 16)
  bytes.writeUInt8((bytes.readUInt8(6) & 0x0f) | 0x50, 6)
  bytes.writeUInt8((bytes.readUInt8(8) & 0x3f) | 0x80, 8)
  return bytes.toString('hex').replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5')
}
