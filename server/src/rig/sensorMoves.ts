import { and, eq, isNull } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { events, installations, positions, sensors, visits } from '../database/schema.ts'
import { noteMoved } from '../moved.ts'
import { notFound, Problem } from '../problem.ts'

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

/** Two sensors change places, each with its own past. @throws Problem unless both may go and are of one kind */
export function swapSensors(db: Database, id: number, other: number, { operator, at }: Author): Promise<void> {
  return db.transaction(async (tx) => {
    const [a, b] = [await positionOf(tx, id), await positionOf(tx, other)]
    if (a.id === b.id || a.kind !== b.kind) {
      throw new Problem(400, 'invalid', 'Only sensors of one kind change places.', { detail: 'Nothing was changed.' })
    }
    const [ofA, ofB] = [await leaving(tx, a), await leaving(tx, b)]
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
