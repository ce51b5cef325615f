import type { HoldView } from '@frustum/contract'
import { and, asc, eq, isNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { holds, positions } from '../database/schema.ts'
import type { Links } from '../devices/links.ts'
import { notFound, Problem } from '../problem.ts'

interface Author {
  operator: string
  at: Date
}

/** Outputs that are held now, the longest first: nothing doses there. */
export async function openHolds(db: Database): Promise<HoldView[]> {
  const rows = await db
    .select({ hold: holds, code: positions.code })
    .from(holds)
    .innerJoin(positions, eq(holds.positionId, positions.id))
    .where(isNull(holds.releasedAt))
    .orderBy(asc(holds.heldAt))
  return rows.map(({ hold, code }) => ({
    id: hold.id,
    position: code,
    visit: hold.visitId,
    since: hold.heldAt.getTime(),
    by: hold.heldBy,
    problem: hold.problem,
  }))
}

/**
 * Holds the outputs of the device at a position, where it can. It is on disk before the device is asked: whatever
 * happens in between, nobody forgets to let them go.
 * @throws Problem when the device does not
 */
export async function holdOutputs(
  db: Database,
  links: Links,
  of: { positionId: number; position: string; visitId: string },
  { operator, at }: Author,
): Promise<void> {
  const hold = links.link(of.position)?.hold
  if (!hold) return
  const [held] = await db
    .select({ id: holds.id })
    .from(holds)
    .where(and(eq(holds.positionId, of.positionId), isNull(holds.releasedAt)))
  const [made] = held
    ? [held]
    : await db
        .insert(holds)
        .values({ positionId: of.positionId, visitId: of.visitId, heldAt: at, heldBy: operator })
        .returning({ id: holds.id })
  try {
    await hold(true)
  } catch (error) {
    const { message } = error as Error
    // Whether it took the request before it fell silent nobody knows.
    await db
      .update(holds)
      .set({ problem: message })
      .where(eq(holds.id, (made as { id: number }).id))
    throw new Problem(502, 'not-held', 'The device does not hold its outputs.', {
      detail: `${message} Nothing was recorded as held by hand.`,
      hint: 'Hold them at the device itself, then skip this step with the reason; or try once more.',
    })
  }
  await db
    .update(holds)
    .set({ problem: null })
    .where(eq(holds.id, (made as { id: number }).id))
}

/** Lets the outputs go that a visit holds. Where the device does not, they stay in every room until somebody does it. */
export async function releaseOutputs(
  db: Database,
  links: Links,
  of: { positionId: number; position: string },
  author: Author,
): Promise<void> {
  const open = await db
    .select({ id: holds.id })
    .from(holds)
    .where(and(eq(holds.positionId, of.positionId), isNull(holds.releasedAt)))
  for (const { id } of open) await release(db, links, { id, position: of.position }, author).catch(() => undefined)
}

/** Lets outputs go from any room; `byHand` where somebody did it at the device. @throws Problem when the device does not */
export async function releaseHold(
  db: Database,
  links: Links,
  id: number,
  { byHand, ...author }: Author & { byHand: boolean },
): Promise<HoldView[]> {
  const [found] = await db
    .select({ id: holds.id, position: positions.code })
    .from(holds)
    .innerJoin(positions, eq(holds.positionId, positions.id))
    .where(and(eq(holds.id, id), isNull(holds.releasedAt)))
  if (!found) throw notFound('hold')
  if (byHand) await released(db, id, { ...author, byHand: true })
  else await release(db, links, found, author)
  return openHolds(db)
}

async function release(
  db: Database,
  links: Links,
  { id, position }: { id: number; position: string },
  author: Author,
): Promise<void> {
  const hold = links.link(position)?.hold
  try {
    if (!hold) throw new Error('The device has no line any more.')
    await hold(false)
  } catch (error) {
    const { message } = error as Error
    await db.update(holds).set({ problem: message }).where(eq(holds.id, id))
    throw new Problem(502, 'not-released', `The outputs of ${position} are still held.`, {
      detail: message,
      hint: 'Let them go at the device itself, then say so here.',
    })
  }
  await released(db, id, { ...author, byHand: false })
}

const released = (db: Database, id: number, { operator, at, byHand }: Author & { byHand: boolean }) =>
  db.update(holds).set({ releasedAt: at, releasedBy: operator, byHand, problem: null }).where(eq(holds.id, id))
