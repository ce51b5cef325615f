import { and, eq, isNull, ne } from 'drizzle-orm'
import { noteChanges, undoChange } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import { changes, events, installations, positions, sensors, visits } from '../database/schema.ts'
import { noteMoved } from '../moved.ts'
import { notFound, Problem } from '../problem.ts'
import { moveReadings } from '../readings/readingStore.ts'

/** Where sensors go between their visits: from one position to another, or to store and back. */

interface Author {
  operator: string
  at: Date
}

type Position = typeof positions.$inferSelect

async function positionOf(tx: Transaction, id: number): Promise<Position> {
  const [position] = await tx.select().from(positions).where(eq(positions.id, id))
  if (!position) throw notFound('position')
  return position
}

/** The sensor that is there and may go. @throws Problem where there is none, or a visit is open at it */
async function leaving(tx: Transaction, position: Position) {
  const [there] = await tx
    .select()
    .from(installations)
    .where(and(eq(installations.positionId, position.id), isNull(installations.removedAt)))
  if (!there) {
    throw new Problem(409, 'empty', `${position.code} has no sensor.`, { detail: 'Nothing was changed.' })
  }
  const [open] = await tx
    .select({ holder: visits.holderName, operator: visits.operator })
    .from(visits)
    .where(and(eq(visits.installationId, there.id), isNull(visits.closedAt)))
  if (open) {
    throw new Problem(
      409,
      'visit-open',
      `A visit is open at ${position.code}: ${open.holder ?? open.operator} has it.`,
      {
        detail: 'Nothing was changed.',
        hint: 'Finish or end it first.',
      },
    )
  }
  return there
}

/** The field of a position under which its list of changes has who went and who came. */
export const SENSOR_FIELD = 'sensor'

const noteSensor = (
  tx: Transaction,
  id: number,
  author: Author,
  { before, after }: { before: number; after: number | null },
) =>
  noteChanges(tx, { subject: 'position', id }, author, {
    before: { [SENSOR_FIELD]: before },
    after: { [SENSOR_FIELD]: after },
  })

/** Two sensors change places, each with its own past. @throws Problem unless both may go and are of one kind */
export function swapSensors(db: Database, id: number, other: number, { operator, at }: Author): Promise<void> {
  return db.transaction(async (tx) => {
    const [a, b] = [await positionOf(tx, id), await positionOf(tx, other)]
    if (a.id === b.id || a.kind !== b.kind) {
      throw new Problem(400, 'invalid', 'Only sensors of one kind change places.', { detail: 'Nothing was changed.' })
    }
    const [ofA, ofB] = [await leaving(tx, a), await leaving(tx, b)]
    const author = { operator, at }
    await noteSensor(tx, a.id, author, { before: ofA.sensorId, after: ofB.sensorId })
    await noteSensor(tx, b.id, author, { before: ofB.sensorId, after: ofA.sensorId })
    for (const [gone, to, from] of [
      [ofA, b, a],
      [ofB, a, b],
    ] as const) {
      await tx.update(installations).set({ removedAt: at }).where(eq(installations.id, gone.id))
      const [made] = await tx
        .insert(installations)
        .values({ sensorId: gone.sensorId, positionId: to.id, deviceId: to.deviceId, installedAt: at })
        .returning()
      const installationId = (made as { id: number }).id
      await noteMoved(tx, { installationId, from: from.code, at: new Date(at.getTime() + 1), operator })
    }
  })
}

/** Takes a sensor out without an end: it rests in store, and comes back by its serial number. @throws Problem */
export function takeToStore(db: Database, id: number, storage: string, { operator, at }: Author): Promise<void> {
  return db.transaction(async (tx) => {
    const position = await positionOf(tx, id)
    const there = await leaving(tx, position)
    const [sensor] = await tx.select().from(sensors).where(eq(sensors.id, there.sensorId))
    if (sensor?.serialNumber === '') {
      throw new Problem(409, 'no-number', 'It has no serial number, by which it would be known again.', {
        detail: 'Nothing was changed.',
        hint: 'Give it one on its own page first: a label of your own will do.',
      })
    }
    await noteSensor(tx, id, { operator, at }, { before: there.sensorId, after: null })
    await tx.update(installations).set({ removedAt: at }).where(eq(installations.id, there.id))
    await tx.update(sensors).set({ storage }).where(eq(sensors.id, there.sensorId))
    await tx.insert(events).values({
      installationId: there.id,
      at,
      kind: 'stored',
      note: `Taken out, to store${storage ? `: ${storage}` : ''}.`,
      operator,
    })
  })
}

/**
 * Takes back a way of sensors, as if it had not been: each is where it was, and what a line read meanwhile is its own.
 * @param when the instant of the way @throws Problem where something rests on it by now
 */
export async function takeMoveBack(tx: Transaction, positionId: number, when: Date, author: Author): Promise<void> {
  const gone = await tx.select().from(installations).where(eq(installations.removedAt, when))
  const come = await tx.select().from(installations).where(eq(installations.installedAt, when))
  const before = gone.filter((i) => i.positionId === positionId || come.some((c) => c.positionId === i.positionId))
  const restsOnIt = new Problem(409, 'rests-on-it', 'Something was recorded since, or a sensor went on.', {
    detail: 'Nothing was changed.',
    hint: 'Move the sensors once more instead: what was recorded stays with them.',
  })
  if (before.length === 0 || come.some((c) => c.removedAt !== null)) throw restsOnIt
  for (const old of before) {
    const now = come.find((c) => c.positionId === old.positionId)
    if (now) await moveReadings(tx, now.id, old.id)
  }
  for (const now of come) {
    await tx
      .transaction(async (own) => {
        await own.delete(events).where(and(eq(events.installationId, now.id), eq(events.kind, 'moved')))
        await own.delete(installations).where(eq(installations.id, now.id))
      })
      .catch(() => {
        throw restsOnIt
      })
  }
  for (const old of before) {
    const elsewhere = and(isNull(installations.removedAt), ne(installations.id, old.id))
    const [taken] = await tx
      .select()
      .from(installations)
      .where(and(elsewhere, eq(installations.positionId, old.positionId)))
    const [inUse] = await tx
      .select()
      .from(installations)
      .where(and(elsewhere, eq(installations.sensorId, old.sensorId)))
    if (taken || inUse) throw restsOnIt
    await tx.update(installations).set({ removedAt: null }).where(eq(installations.id, old.id))
    await tx
      .delete(events)
      .where(and(eq(events.installationId, old.id), eq(events.kind, 'stored'), eq(events.at, when)))
  }
  // The other position of a swap says so too.
  const others = await tx
    .select()
    .from(changes)
    .where(and(eq(changes.at, when), eq(changes.field, SENSOR_FIELD), eq(changes.subject, 'position')))
  for (const { id, subjectId } of others) {
    if (subjectId !== positionId) await undoChange(tx, { subject: 'position', id: subjectId }, id, author)
  }
}
