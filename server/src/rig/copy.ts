import type { CopyBody } from '@frustum/contract'
import { eq, inArray } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { devices, places, positions } from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { type Author, noteAdded, placeByName } from './add.ts'
import { checkCode } from './position.ts'

type Original = { position: typeof positions.$inferSelect; device: typeof devices.$inferSelect }

/**
 * Copies positions with their devices and everything set for them to a place, all or nothing: a device that reads
 * several of them is copied once. Connections, sensors and records belong to the original and are not copied.
 * @throws Problem with a sentence for each code, by "code-" and the number of its original
 */
export const copyPositions = (db: Database, body: CopyBody, at: Date): Promise<{ position: string; id: number }[]> =>
  db.transaction(async (tx) => {
    const author = { operator: body.operator, at }
    const originals = await originalsOf(tx, body)
    const [first] = originals as [Original]
    const [from] = await tx.select().from(places).where(eq(places.id, first.position.placeId))
    const placeId = await placeByName(tx, body.placeName, from?.water ?? '', author)
    const groups = {
      body: sharedBy(originals, (p) => p.body),
      water: sharedBy(originals, (p) => p.water),
    }
    const within = (group: Set<string>, name: string | null) =>
      name !== null && group.has(name) ? `${name}, ${body.placeName}` : null
    const deviceIds = new Map<number, number>()
    const made: { position: string; id: number }[] = []
    for (const { position, device } of originals) {
      const { code, spot } = body.sensors.find((s) => s.id === position.id) as CopyBody['sensors'][number]
      await checkCopiedCode(tx, code, position.id)
      const deviceId = deviceIds.get(device.id) ?? (await copyDevice(tx, device, { position, code, body }, author))
      deviceIds.set(device.id, deviceId)
      const { id: _, mapping: __, archivedAt: ___, ...rules } = position
      const [row] = await tx
        .insert(positions)
        .values({
          ...rules,
          code: code.trim(),
          spot: spot ?? position.spot,
          placeId,
          deviceId,
          body: within(groups.body, position.body),
          water: within(groups.water, position.water),
        })
        .returning()
      const id = (row as { id: number }).id
      await noteAdded(tx, 'position', id, code.trim(), author)
      made.push({ position: code.trim(), id })
    }
    return made
  })

async function originalsOf(tx: Transaction, { sensors }: CopyBody): Promise<Original[]> {
  const ids = sensors.map((s) => s.id)
  const rows = await tx
    .select({ position: positions, device: devices })
    .from(positions)
    .innerJoin(devices, eq(positions.deviceId, devices.id))
    .where(inArray(positions.id, ids))
  if (rows.length !== new Set(ids).size) {
    throw new Problem(404, 'not-found', 'One of these sensors no longer exists.', {
      hint: 'Reload the page and try again.',
    })
  }
  return ids.map((id) => rows.find((r) => r.position.id === id) as Original)
}

async function checkCopiedCode(tx: Transaction, code: string, of: number): Promise<void> {
  try {
    await checkCode(tx, code, null)
  } catch (problem) {
    if (!(problem instanceof Problem)) throw problem
    const { fields, ...more } = problem.more
    throw new Problem(problem.status, problem.code, problem.message, {
      ...more,
      fields: { [`code-${of}`]: fields?.code ?? problem.message },
    })
  }
}

/** Sensors of one body or of one water stay a group of their own in the copy, apart from that of the originals. */
function sharedBy(originals: readonly Original[], of: (p: Original['position']) => string | null): Set<string> {
  const names = originals.map(({ position }) => of(position)).filter((name) => name !== null && name !== '')
  return new Set(names.filter((name, i) => names.indexOf(name) !== i) as string[])
}

async function copyDevice(
  tx: Transaction,
  device: Original['device'],
  { position, code, body }: { position: Original['position']; code: string; body: CopyBody },
  author: Author,
): Promise<number> {
  const name = device.name.includes(position.code)
    ? device.name.replace(position.code, code.trim())
    : `${device.name}, ${body.placeName}`
  const { shows, adjustsBy, calibrationKey, whileCalibrating, setting } = device
  const [row] = await tx
    .insert(devices)
    .values({ name, shows, adjustsBy, calibrationKey, whileCalibrating, setting })
    .returning()
  const id = (row as { id: number }).id
  await noteAdded(tx, 'device', id, name, author)
  return id
}
