import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { randomStream } from '@frustum/core'
import { openDatabaseIn } from '@frustum/server/database'
import { afterAll, expect, it } from 'vitest'
import { heavy } from '../../core/src/testing/heavy.ts'
import { DiskReplay } from '../support/diskReplay.ts'

const PROCESS = fileURLToPath(new URL('../support/engineProcess.ts', import.meta.url))
const RECORDER = fileURLToPath(new URL('../support/recordDisk.mjs', import.meta.url))
const KILLS = heavy(2, 200)
const CUTS = heavy(4, 200)

const work = mkdtempSync(join(tmpdir(), 'frustum-acknowledged-'))
afterAll(() => rmSync(work, { recursive: true, force: true }))

interface Acknowledged {
  what: string
  by: number
}

/** Runs the writer to its end, by itself or killed. */
async function run(env: Record<string, string>): Promise<void> {
  const child = spawn(process.execPath, ['--import', 'tsx', PROCESS], {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'inherit', 'inherit'],
  })
  const ended = await new Promise((resolve) => child.once('exit', (code, signal) => resolve(signal ?? code)))
  expect(ended).toBe(env.KILL_AFTER ? 'SIGKILL' : 0)
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
