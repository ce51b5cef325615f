import type { LiveValue, RigView } from '@frustum/contract'
import { openDatabaseIn } from '@frustum/server/database'
import { floatMap } from '@frustum/server/extending'
import { sql } from 'drizzle-orm'
import { expect, it } from 'vitest'
import { unreachable } from '../../lab/src/fixtures/unreachable.ts'
import { ownSite } from '../support/ownSite.ts'

it('a start waits for no address that never answers, and Rounds soon says that it is blind', async () => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,nutrient')
  const port = await unreachable()
  await site.stop()
  const { db, close } = await openDatabaseIn(site.folder)
  const settings = JSON.stringify({ host: '127.0.0.1', port })
  await db.execute(
    sql`insert into connections (name, protocol, settings) values ('Gateway', 'modbus-tcp', ${settings}::jsonb)`,
  )
  await db.execute(sql`update devices set connection_id = 1, address = '{"unit":1}'`)
  await db.execute(sql`update positions set mapping = ${JSON.stringify(floatMap('ph', false))}::jsonb`)
  await close()
  await site.restart()
  const live = async (): Promise<LiveValue | undefined> => (await site.get<RigView>('rig')).positions[0]?.live
  await expect.poll(async () => (await live())?.blindSince ?? null, { timeout: 8000 }).not.toBeNull()
})
