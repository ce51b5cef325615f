import type { SensorEventBody } from '@frustum/contract'
import type { Database } from '../database/open.ts'
import { events } from '../database/schema.ts'
import { photoOf } from '../photos/photos.ts'
import { Problem } from '../problem.ts'
import { installedAt } from '../sensors.ts'

/** A browser's clock may be ahead of the server's by so much, ms. */
const CLOCKS_APART = 60_000

/** Notes something that happened to a sensor. @throws Problem for a time before it was installed, or to come */
export async function noteEvent(db: Database, code: string, body: SensorEventBody, now: number): Promise<void> {
  const { installation } = await installedAt(db, code)
  const { at, kind, note, operator, photo } = body
  if (photo) await photoOf(db, photo)
  if (at > now + CLOCKS_APART || at < installation.installedAt.getTime()) {
    const message = 'Choose a time since it was installed, and not in the future.'
    throw new Problem(400, 'invalid', message, { fields: { at: message } })
  }
  await db.insert(events).values({
    installationId: installation.id,
    at: new Date(at),
    kind,
    note: note ?? '',
    operator,
    byHand: true,
    photo: photo ?? null,
  })
}
