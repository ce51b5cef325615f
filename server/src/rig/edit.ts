import {
  askedFields,
  type EditThingBody,
  formSchema,
  formValues,
  isCalendarDay,
  type MovesBody,
  type MovesView,
  SUBJECTS,
  type Subject,
  type ThingView,
} from '@frustum/contract'
import { loosened } from '@frustum/core'
import { computedSensors } from '../ageing/computed.ts'
import { nextDateOf, type SensorForecast } from '../ageing/forecasts.ts'
import { forecastsWith } from '../ageing/nextUnder.ts'
import { ADDED, type Author, changesOf, lastChange, noteChanges, undoChange, type Values } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import { readBody } from '../http/validate.ts'
import { notFound, Problem } from '../problem.ts'
import { policyOf } from '../sensorPolicy.ts'
import type { Installed } from '../sensors.ts'
import { siteCalendar } from '../zone.ts'
import { SENSOR_FIELD, takeMoveBack } from './sensorMoves.ts'
import type { Thing } from './thing.ts'
import { findThing } from './things.ts'

export const subjectOf = (text: string): Subject => {
  const found = SUBJECTS.find((s) => s === text)
  if (!found) throw notFound('thing')
  return found
}

/** @throws Problem 404 */
export async function thingOf(db: Database | Transaction, subject: Subject, id: string): Promise<Thing> {
  const number = Number(id)
  const found = /^\d{1,9}$/.test(id) ? await findThing(db, subject, number) : null
  if (!found) throw notFound(subject)
  return found
}

export async function thingView(db: Database, subject: Subject, id: string): Promise<ThingView> {
  const thing = await thingOf(db, subject, id)
  return {
    subject,
    id: thing.id ?? 0,
    title: thing.title,
    fields: [...thing.fields],
    says: thing.says ?? null,
    values: { ...thing.shown },
    changes: await changesOf(db, { subject, id: thing.id }, thing.words),
    archived: thing.archived,
    canArchive: thing.archive !== undefined,
    keptFor: thing.delete ? thing.keptFor : (thing.keptFor ?? 'It stays.'),
  }
}

/** Reads what was typed into fields; those that were left out stay as they are. @throws Problem */
async function readFields(thing: Thing, typed: Readonly<Record<string, unknown>>): Promise<Values> {
  const all = { ...thing.shown, ...typed }
  await readBody(formSchema(thing.fields), all)
  return thing.read(formValues(thing.fields, all))
}

/**
 * Changes what differs, each field with its line. Whoever changed the same field since it was looked at is named, and
 * nothing is overwritten unseen.
 */
export async function editThing(
  db: Database,
  subject: Subject,
  id: string,
  { operator, values, seen, mode, on, why }: EditThingBody,
  at: Date,
): Promise<string[]> {
  if (mode === 'changed' && on === undefined) throw invalid({ on: 'Choose the day on which it became so.' })
  const since = await sinceDay(db, on, at)
  return db.transaction(async (tx) => {
    const thing = await thingOf(tx, subject, id)
    const of = { subject, id: thing.id }
    await refuseOverwriting(tx, thing, of, values, seen)
    const after = await readFields(thing, values)
    const apart = thing.together?.(after) ?? {}
    if (Object.keys(apart).length > 0) throw invalid(apart)
    await thing.check?.(tx, after)
    askReason(thing.stored, after, why)
    const validFrom = mode === 'changed' ? since : await beginning(tx, of, at)
    const turns = mode === 'changed' ? (thing.turning?.(after) ?? []) : []
    const changed = await noteChanges(
      tx,
      of,
      { operator, at, why, validFrom, turning: turns },
      { before: thing.stored, after },
    )
    if (changed.length > 0)
      await thing.save(tx, Object.fromEntries(changed.map((field) => [field, after[field] ?? null])))
    return changed
  })
}

/** From the beginning of a day on the site's clocks; now where none is named. @throws Problem for a day to come */
async function sinceDay(db: Database | Transaction, on: string | undefined, now: Date): Promise<Date> {
  if (on === undefined) return now
  const { today, startOf } = await siteCalendar(db, now.getTime())
  if (!isCalendarDay(on) || on > today) throw invalid({ on: 'Choose today or an earlier day.' })
  return new Date(startOf(on))
}

const invalid = (fields: Record<string, string>) =>
  new Problem(400, 'invalid', Object.values(fields)[0] ?? '', { detail: 'Nothing was changed.', fields })

/** What was entered wrong was so from when it was entered. */
async function beginning(tx: Transaction, of: { subject: Subject; id: number | null }, at: Date): Promise<Date> {
  return (await lastChange(tx, of, ADDED))?.at ?? at
}

async function refuseOverwriting(
  tx: Transaction,
  thing: Thing,
  of: { subject: Subject; id: number | null },
  values: Readonly<Record<string, unknown>>,
  seen: Readonly<Record<string, unknown>>,
): Promise<void> {
  const fields: Record<string, string> = {}
  const asked = askedFields(thing.fields, thing.shown)
  for (const { key } of asked) {
    const theirs = thing.shown[key] ?? ''
    // Only what both changed, and not to the same.
    if (values[key] === undefined || seen[key] === undefined) continue
    if (values[key] === seen[key] || seen[key] === theirs || values[key] === theirs) continue
    const last = await lastChange(tx, of, key)
    fields[key] = `${last?.operator ?? 'Somebody'} changed this to ${String(theirs) || 'nothing'} meanwhile.`
  }
  const first = Object.values(fields)[0]
  if (first) {
    throw new Problem(409, 'changed-meanwhile', first, {
      detail: 'Nothing was overwritten.',
      hint: 'Take what is there now, or save yours over it.',
      fields,
    })
  }
}

/** A limit that is loosened needs a reason. @throws Problem */
function askReason(before: Values, after: Values, why: string | undefined): void {
  if (before.tolerance === undefined) return
  const limits = (v: Values) => ({
    tolerance: Number(v.tolerance),
    reliability: Number(v.reliability),
    ceilingDays: Number(v.ceilingDays),
  })
  if (loosened(limits(before), limits(after)).length === 0 || (why ?? '').length >= 3) return
  throw new Problem(400, 'why-needed', 'A limit is loosened: say why.', {
    detail: 'Nothing was changed.',
    fields: { why: 'Say why in a few words.' },
  })
}

/** Takes a change back, as one more line. */
export async function undoEdit(
  db: Database,
  subject: Subject,
  id: string,
  change: number,
  author: Author,
): Promise<void> {
  await db.transaction(async (tx) => {
    const thing = await thingOf(tx, subject, id)
    const { field, value, at } = await undoChange(tx, { subject, id: thing.id }, change, author)
    if (field === SENSOR_FIELD && subject === 'position') {
      await takeMoveBack(tx, thing.id as number, at, author)
      return
    }
    if (field === 'archived') {
      await thing.archive?.(tx, value === true ? author.at : null)
      return
    }
    await thing.check?.(tx, { ...thing.stored, [field]: value })
    await thing.save(tx, { [field]: value })
  })
}

/** Puts something away, or takes it out again; its records stay where they are. @throws Problem while it is in use */
export async function archiveThing(
  db: Database,
  subject: Subject,
  id: string,
  archived: boolean,
  author: Author,
): Promise<void> {
  await db.transaction(async (tx) => {
    const thing = await thingOf(tx, subject, id)
    if (!thing.archive) throw new Problem(409, 'stays', thing.keptFor ?? 'It stays.')
    if (archived && thing.inTheWay) {
      throw new Problem(409, 'in-use', thing.inTheWay.message, {
        detail: 'Nothing was changed.',
        hint: thing.inTheWay.hint,
      })
    }
    await noteChanges(tx, { subject, id: thing.id }, author, {
      before: { archived: thing.archived },
      after: { archived },
    })
    await thing.archive(tx, archived ? author.at : null)
  })
}

/** PostgreSQL's foreign_key_violation. */
const FOREIGN_KEY = '23503'

const KEPT = {
  detail: 'What has records is put away, never deleted.',
  hint: 'Put it away: it leaves the lists, and its records stay.',
}

/** Deletes what nothing rests on. @throws Problem where something does */
export async function deleteThing(db: Database, subject: Subject, id: string): Promise<void> {
  await db.transaction(async (tx) => {
    const thing = await thingOf(tx, subject, id)
    if (!thing.delete || thing.keptFor !== null) {
      throw new Problem(409, 'has-records', thing.keptFor ?? 'It stays.', KEPT)
    }
    const remove = thing.delete
    // The database knows best what rests on it.
    await tx
      .transaction((own) => remove(own))
      .catch((error: Error & { cause?: { code?: unknown } }) => {
        if (error.cause?.code !== FOREIGN_KEY) throw error
        throw new Problem(409, 'has-records', `Something was recorded of ${thing.title}.`, KEPT)
      })
  })
}

/**
 * What a change of a position or a device would do to the next dates. Nothing is written.
 * @param since from when it would be so; null where it was so from the beginning
 */
export async function movesOf(
  db: Database,
  subject: Subject,
  id: string,
  { values, mode, on }: MovesBody,
  now: number,
): Promise<MovesView> {
  const thing = await thingOf(db, subject, id)
  if (!thing.changed) return { moves: [], turns: false }
  const after = await readFields(thing, values)
  const { fit, unfit, forecasts } = await computedSensors(db, now)
  const there = [...fit, ...unfit.map((u) => u.installed)]
  const concerned = there.flatMap((i) => {
    const as = thing.changed?.(after, i)
    return as ? [{ is: i, as }] : []
  })
  if (concerned.length === 0) return { moves: [], turns: false }
  const turns = (thing.turning?.(after) ?? []).length > 0
  const since = turns && mode === 'changed' ? (await sinceDay(db, on, new Date(now))).getTime() : null
  const then = await forecastsWith(
    db,
    concerned.map((c) => c.as),
    new Map(concerned.map(({ is }) => [is.installation.id, since])),
    now,
  )
  const date = (i: Installed, known: SensorForecast | undefined) =>
    known ? nextDateOf(known, policyOf(i.position, known.hours)) : null
  return {
    turns,
    moves: concerned.flatMap(({ is, as }) => {
      const before = fit.includes(is) ? date(is, forecasts.get(is.installation.id)) : null
      const next = date(as, then.get(is.installation.id))
      const moved = next && (before?.at !== next.at || before.usualDays !== next.usualDays)
      return moved ? [{ position: is.position.code, before, after: next }] : []
    }),
  }
}
