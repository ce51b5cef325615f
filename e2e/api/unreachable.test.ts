import type { LiveValue, RigView } from '@frustum/contract'
import { openDatabaseIn } from '@frustum/server/database'
import { sql } from 'drizzle-orm'
import { expect, it } from 'vitest'
import { unreachable } from '../../server/src/links/testing/unreachable.ts'
import { ownSite } from '../support/ownSite.ts'

it('a start waits for no address that never answers, and Rounds soon says that it is blind', async () => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,nutrient')
  const port = await unreachable()
  await site.stop()
  const { db, close } = await openDatabaseIn(site.folder)
  const link = JSON.stringify({ kind: 'modbus-tcp', host: '127.0.0.1', port, unit: 1 })
  await db.execute(sql`update devices set link = ${link}`)
  await close()
  await site.restart()
  const live = async (): Promise<LiveValue | undefined> => (await site.get<RigView>('rig')).positions[0]?.live
  await expect.poll(async () => (await live())?.blindSince ?? null, { timeout: 8000 }).not.toBeNull()
})
