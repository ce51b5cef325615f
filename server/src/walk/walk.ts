import type { WalkOutcome, WalkPlaceView, WalkView, walkBody } from '@frustum/contract'
import { alarmSentence, DAY_MS, modelOf, nullIfOutOfRange, valueShown } from '@frustum/core'
import type { InferType } from 'yup'
import { besideWords, disagrees, referenceValuesOf } from '../ageing/besideDisplay.ts'
import type { SensorAlarms } from '../alarms/sensorAlarms.ts'
import type { Database, Transaction } from '../database/open.ts'
import { referenceValues } from '../database/schema.ts'
import { isLinked } from '../devices/links.ts'
import { notFound, Problem } from '../problem.ts'
import { rangeState } from '../readings/rangeState.ts'
import { keepReadings, latestReading, type Reading } from '../readings/readingStore.ts'
import { type Installed, installedSensors } from '../sensors.ts'
import { processShown, shownError } from '../shown.ts'

/** How far from what it read last nobody is asked whether that is right: so many tolerances (common practice, no source). */
const WIDTH_TOLERANCES = 4
/** How long ago a sample may have been taken, and how far a clock may be ahead. */
const OLDEST_MS = 60 * DAY_MS
export const AHEAD_MS = 5 * 60_000

const byEye = async (db: Database) => (await installedSensors(db)).filter((i) => !isLinked(i))

/** Places with displays that are read by eye. */
export async function walkPlaces(db: Database): Promise<WalkPlaceView[]> {
  const places = new Map<number, WalkPlaceView>()
  for (const { place, installation } of await byEye(db)) {
    const last = await latestReading(db, installation.id)
    const known = places.get(place.id) ?? { id: place.id, name: place.name, displays: 0, lastAt: null }
    const lastAt = last === null ? known.lastAt : Math.max(known.lastAt ?? 0, last.at)
    places.set(place.id, { ...known, displays: known.displays + 1, lastAt })
  }
  return [...places.values()].sort((a, b) => a.name.localeCompare(b.name))
}

/** The displays of a place, in the order in which they hang. @throws Problem 404 */
export async function walkSheet(db: Database, placeId: number): Promise<WalkView> {
  const all = (await byEye(db)).filter(({ place }) => place.id === placeId)
  const [first] = all
  if (!first) throw notFound('place')
  const displays = await Promise.all(
    all.map(async (i) => {
      const { position, device, installation } = i
      const model = modelOf(position.kind)
      const { unit, decimals } = model.shownScale(device.setting)
      const last = await latestReading(db, installation.id)
      const lastShown = last?.shown == null ? null : { at: last.at, value: last.shown }
      return {
        position: position.code,
        spot: position.spot,
        quantity: model.quantity(device.setting),
        unit,
        decimals,
        ...model.shownRange(device.setting),
        last: lastShown,
        usual: lastShown?.value ?? processShown(i),
        width: WIDTH_TOLERANCES * shownError(i, position.tolerance),
      }
    }),
  )
  return { id: placeId, name: first.place.name, displays }
}

type Typed = InferType<typeof walkBody>

/** Keeps what was read on the way round: all of it or nothing. @throws Problem that names each field that is wrong */
export async function keepWalk(
  { db, alarms }: { db: Database; alarms: SensorAlarms },
  placeId: number,
  { operator, readings, at: typedAt }: Typed,
  now: number,
): Promise<WalkOutcome> {
  const at = typedAt ?? now
  if (at > now + AHEAD_MS || at < now - OLDEST_MS) throw refused({ at: 'From 60 days ago until now.' })
  const here = new Map(
    (await byEye(db)).filter(({ place }) => place.id === placeId).map((i) => [i.position.code, i] as const),
  )
  const wrong: Record<string, string> = {}
  const kept = readings.flatMap((reading, i) => {
    const installed = here.get(reading.position)
    const error = installed ? checked(installed, reading) : 'It is no longer read by eye here.'
    if (error !== null) wrong[`readings[${i}]`] = error
    return installed && error === null ? [{ reading, installed }] : []
  })
  if (Object.keys(wrong).length > 0) throw refused(wrong)
  const state = 'typed'
  const keptAt = await db.transaction(async (tx) => {
    const times: number[] = []
    for (const { reading, installed } of kept) {
      const time = await keepTyped(tx, installed, { at, shown: reading.shown, signal: null, temperature: null, state })
      times.push(time)
      const beside = besideRow(installed, reading)
      if (beside) await tx.insert(referenceValues).values({ ...beside, at: new Date(time), operator })
    }
    return times
  })
  const raised = kept.flatMap(({ reading, installed: { position, device } }) => {
    const scale = modelOf(position.kind).shownScale(device.setting)
    return alarms
      .push(position.id, { at, value: reading.shown, state })
      .filter((change) => change.raised)
      .map((change) => ({
        position: position.code,
        sentence: alarmSentence({ ...change, ...scale, subject: null }),
      }))
  })
  return {
    kept: kept.length,
    disagreeing: await disagreeing(
      db,
      kept.map(({ installed }, i) => ({ installed, at: keptAt[i] ?? at })),
    ),
    alarms: raised,
  }
}

/** A sheet has the minute only: so many readings of one display fit into it. */
const MOST_OF_A_MINUTE = 100

/**
 * Keeps a reading at its time, or as soon after as no other has: none takes another's place. Returns the time.
 * @throws Problem where the readings of that time are kept no longer
 */
async function keepTyped(tx: Transaction, { position, installation }: Installed, reading: Reading): Promise<number> {
  for (let at = reading.at; at < reading.at + MOST_OF_A_MINUTE; at++) {
    if ((await keepReadings(tx, installation.id, { all: [{ ...reading, at }], apartMs: 1 })) > 0) return at
  }
  throw new Problem(409, 'not-kept', `No reading of ${position.code} at that time can be kept.`, {
    detail: 'Nothing was saved.',
    hint: 'Readings that old are no longer kept on this site. Change the time, or how long readings are kept.',
  })
}

const refused = (fields: Record<string, string>) =>
  new Problem(400, 'invalid', 'Something on the sheet cannot be right.', {
    detail: 'Nothing was kept; what was typed is still there.',
    fields,
  })

type TypedOne = Typed['readings'][number]

function checked(installed: Installed, reading: TypedOne): string | null {
  const { position, device } = installed
  const { shown, beside } = reading
  const { low, high } = modelOf(position.kind).shownRange(device.setting)
  const isOutside = (v: number) => rangeState(position.kind, device.setting, v) === 'out-of-range'
  if (isOutside(shown)) return `${position.code} shows ${low} to ${high}.`
  if (!beside) return null
  // What cannot be held against the display is said, and not dropped.
  return isOutside(beside.value) || !besideRow(installed, reading)
    ? `What is beside ${position.code} must lie within ${low} to ${high}, with what it is good to.`
    : null
}

/** What was beside the display as a row; null where there was nothing, or nothing that can be worked out. */
function besideRow({ position, device, installation }: Installed, { shown, beside }: TypedOne) {
  if (!beside) return null
  const model = modelOf(position.kind)
  const core = (value: number) => valueShown(position.kind, value, position.processTemperature, device.setting)
  const worked = nullIfOutOfRange(() => ({
    error: model.errorOf(core(shown), core(beside.value)),
    errorUncertainty: Math.abs(model.errorOf(core(beside.value + beside.uncertainty), core(beside.value))),
  }))
  if (!worked) return null
  const { unit } = model.shownScale(device.setting)
  const { value: reference, uncertainty, with: readWith } = beside
  return { installationId: installation.id, shown, reference, uncertainty, unit, readWith, ...worked }
}

async function disagreeing(
  db: Database,
  all: readonly { installed: Installed; at: number }[],
): Promise<WalkOutcome['disagreeing']> {
  const values = await referenceValuesOf(
    db,
    all.map(({ installed }) => installed.installation.id),
  )
  return all.flatMap(({ installed: i, at }) => {
    const newest = values.get(i.installation.id)?.find((v) => v.at === at)
    return newest && disagrees(i, newest) ? [{ position: i.position.code, sentence: besideWords(i, newest) }] : []
  })
}
