import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { onTestFinished } from 'vitest'
import { openDatabaseIn } from '../../database/open.ts'
import { addPosition, setUpSite } from '../add.ts'

const operator = 'A. Fenn'
const VALUES = {
  spot: '',
  shows: 'value',
  adjustsBy: 'numbers',
  whileCalibrating: 'value',
  processValue: '8.2',
  processTemperature: '25',
  tolerance: '0.1',
  startingDays: '30',
  floorDays: '7',
  ceilingDays: '90',
  reliability: '95',
  consequence: '2',
  spareLeadDays: '21',
}

/** An empty database in a folder of its own, removed when the test has finished. */
export async function newDatabase() {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-test-'))
  const { db, close } = await openDatabaseIn(folder)
  onTestFinished(async () => {
    await close()
    rmSync(folder, { recursive: true, force: true })
  })
  return { db, folder }
}

/** A site in UTC with pH sensors that have been in use since an instant, epoch ms. */
export async function newSite(codes: readonly string[], since: number) {
  const { db } = await newDatabase()
  await setUpSite(db, { name: 'Mill', person: operator, timeZone: 'UTC' }, new Date(since))
  for (const code of codes) {
    const place = { kind: 'ph', water: 'seawater', placeName: 'Hall', inUse: true } as const
    await addPosition(db, { operator, ...place, values: { ...VALUES, code } }, new Date(since))
  }
  return db
}
