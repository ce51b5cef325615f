import { spawn } from 'node:child_process'
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { randomStream } from '@frustum/core'
import { openDatabaseIn } from '@frustum/server/database'
import { afterAll, expect, it } from 'vitest'
import { makeDatabase0003 } from '../../lab/src/fixtures/database0003.ts'
import { heavy } from '../../lab/src/fixtures/heavy.ts'
import { DiskReplay } from '../support/diskReplay.ts'

const PROCESS = fileURLToPath(new URL('../support/engineProcess.ts', import.meta.url))
const RECORDER = fileURLToPath(new URL('../support/recordDisk.mjs', import.meta.url))
const KILLS = heavy(2, 200)
const CUTS = heavy(4, 200)
const FULL = heavy(1, 40)
const MIGRATION_CUTS = heavy(2, 100)

const work = mkdtempSync(join(tmpdir(), 'frustum-acknowledged-'))
afterAll(() => rmSync(work, { recursive: true, force: true }))

interface Acknowledged {
  what: string
  by: number
}

/** Runs the writer to its end: by itself, killed, or by a disk that is full. Returns how it ended. */
async function run(env: Record<string, string>): Promise<unknown> {
  const child = spawn(process.execPath, ['--import', 'tsx', PROCESS], {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'inherit', env.DISK_FULL_AT ? 'ignore' : 'inherit'],
  })
  const ended = await new Promise((resolve) => child.once('exit', (code, signal) => resolve(signal ?? code)))
  if (!env.DISK_FULL_AT) expect(ended).toBe(env.KILL_AFTER ? 'SIGKILL' : 0)
  return ended
}

const acknowledgedIn = (file: string) =>
  readFileSync(file, 'utf8')
    .trimEnd()
    .split('\n')
    .map((line) => JSON.parse(line) as Acknowledged)

async function keptIn(folder: string): Promise<Set<string>> {
  const { db, close } = await openDatabaseIn(folder)
  try {
    const { rows } = await db.$client.query<{ what: string }>('select what from kept')
    return new Set(rows.map((r) => r.what))
  } finally {
    await close()
  }
}

it(`every acknowledged row survives ${KILLS} kills at the instant of its acknowledgement, whatever else is running`, async () => {
  const data = join(work, 'killed')
  const ack = join(work, 'killed-ack')
  const random = randomStream(35)
  for (let kill = 0; kill < KILLS; kill++) {
    const killAfter = 1 + Math.floor(random.between(0, 8))
    await run({ DATA: data, ACK_FILE: ack, SEED: String(kill), ROWS: '100', KILL_AFTER: String(killAfter) })
    // Every tenth time by a second process, else by the next writer, which goes on in the same folder.
    if (kill % 10 !== 9 && kill + 1 < KILLS) continue
    const kept = await keptIn(data)
    expect(acknowledgedIn(ack).filter(({ what }) => !kept.has(what))).toEqual([])
  }
})

it(`every acknowledged row survives ${CUTS} power cuts at the instant of its acknowledgement`, async () => {
  const data = join(work, 'cut')
  const [ack, record] = [join(work, 'cut-ack'), join(work, 'cut-record')]
  await run({
    DATA: data,
    ACK_FILE: ack,
    ROWS: String(heavy(6, 80)),
    NODE_OPTIONS: `--import ${RECORDER}`,
    RECORDED_FOLDER: data,
    DISK_RECORD: record,
  })
  const acknowledged = acknowledgedIn(ack)
  const every = Math.max(1, Math.floor(acknowledged.length / CUTS))
  const cuts = acknowledged.filter((_, n) => n % every === 0).map(({ by }) => by)
  const disk = new DiskReplay(readFileSync(record), data)
  const left = join(work, 'left')
  for (const at of cuts) {
    disk.playTo(at)
    disk.cut(left, null)
    const kept = await keptIn(left)
    expect(acknowledged.filter(({ what, by }) => by <= at && !kept.has(what))).toEqual([])
    rmSync(left, { recursive: true })
  }
})

it(`every acknowledged row is there after the disk was full, at ${FULL} moments`, async () => {
  const random = randomStream(36)
  for (let n = 0; n < FULL; n++) {
    const data = join(work, `full-${n}`)
    const [ack, record] = [join(work, `full-ack-${n}`), join(work, `full-record-${n}`)]
    writeFileSync(ack, '')
    const recorded = { NODE_OPTIONS: `--import ${RECORDER}`, RECORDED_FOLDER: data, DISK_RECORD: record }
    await run({ DATA: data, ACK_FILE: ack, ROWS: '1', SEED: '1000', ...recorded })
    const full = statSync(record).size + Math.floor(random.between(0, 3e6))
    const writer = { DATA: data, ACK_FILE: ack, ROWS: '40', SEED: String(n), ...recorded, DISK_FULL_AT: String(full) }
    expect(await run(writer)).not.toBe(0)
    const kept = await keptIn(data)
    const acknowledged = acknowledgedIn(ack)
    expect(acknowledged.length).toBeGreaterThan(0)
    expect(acknowledged.filter(({ what }) => !kept.has(what))).toEqual([])
    for (const path of [data, record]) rmSync(path, { recursive: true })
  }
})

it(`a power cut at any of ${MIGRATION_CUTS} moments of an update leaves the old tables or the new ones, with every row`, async () => {
  const data = join(work, 'old')
  const record = join(work, 'old-record')
  await makeOldDatabase(join(data, 'database'))
  const before = join(work, 'old-before')
  cpSync(data, before, { recursive: true })
  await run({
    DATA: data,
    ACK_FILE: join(work, 'old-ack'),
    ROWS: '0',
    NODE_OPTIONS: `--import ${RECORDER}`,
    RECORDED_FOLDER: data,
    DISK_RECORD: record,
  })
  const written = readFileSync(record)
  const ends = DiskReplay.ends(written)
  const random = randomStream(37)
  const cuts = Array.from({ length: MIGRATION_CUTS }, () => ends[Math.floor(random.uniform() * ends.length)] as number)
  const disk = new DiskReplay(written, data, before)
  for (const [n, at] of cuts.toSorted((a, b) => a - b).entries()) {
    const left = join(work, 'left')
    disk.playTo(at)
    disk.cut(left, n % 2 === 0 ? null : random)
    const { db, close } = await openDatabaseIn(left)
    const { rows } = await db.$client.query<{ lot: string; expires: string }>(
      'select lot, expires_on::text as expires from solution_lots order by lot',
    )
    await close()
    expect(rows).toEqual([{ lot: 'A', expires: '2026-03-31' }])
    rmSync(left, { recursive: true })
  }
})

/** A database of the oldest version that can be upgraded, with a bottle. */
async function makeOldDatabase(path: string): Promise<void> {
  mkdirSync(dirname(path), { recursive: true })
  const database = await makeDatabase0003(path)
  await database.exec(`insert into solution_lots (standard, lot, expires_on, life_after_opening_days, volume, storage)
    values ('pH7.00', 'A', '2026-03-31T23:59:59Z', 90, 500, 'Dark')`)
  await database.close()
}
