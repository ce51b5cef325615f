import { appendFileSync, statSync } from 'node:fs'
import { setTimeout } from 'node:timers/promises'
import { randomStream } from '@frustum/core'
import { openDatabaseIn } from '@frustum/server/database'

/**
 * A process that writes to a database and notes each acknowledged row in ACK_FILE with the size of DISK_RECORD at that
 * moment. With KILL_AFTER it kills itself the instant that many rows are acknowledged. Where the disk fills up, it ends by
 * the failure, as a server does.
 */

const { ACK_FILE = '', DISK_RECORD, KILL_AFTER, ROWS = '1', SEED = '1', DATA = '' } = process.env

const { db, close } = await openDatabaseIn(DATA)
const engine = db.$client
await engine.exec('create table if not exists kept (what text not null)')
const random = randomStream(Number(SEED))
let acknowledged = 0

function acknowledge(what: string): void {
  appendFileSync(ACK_FILE, `${JSON.stringify({ what, by: DISK_RECORD ? statSync(DISK_RECORD).size : 0 })}\n`)
  if (++acknowledged === Number(KILL_AFTER)) process.kill(process.pid, 'SIGKILL')
}

const insert = (what: string) => engine.query('insert into kept values ($1)', [what]).then(() => acknowledge(what))
const write = (what: string) =>
  engine
    .transaction(async (tx) => {
      await tx.query('insert into kept values ($1)', [what])
    })
    .then(() => acknowledge(what))

/** What else has the database while a row is written; each starts directly behind it. */
const NEIGHBOURS = [
  async function longAndLight() {
    await engine.transaction(async (tx) => {
      for (let i = 0; i < 20; i++) {
        await tx.query('select count(*) from kept')
        await setTimeout(5)
      }
    })
  },
  async function failing() {
    const failed = engine.transaction(async (tx) => {
      await tx.query('insert into nowhere values (1)').catch(() => undefined)
      await setTimeout(50)
      await tx.query('select 1')
    })
    await failed.catch(() => undefined)
  },
  async function importing() {
    await engine.transaction(async (tx) => {
      for (let i = 0; i < 5; i++) await tx.query("insert into kept select 'imported' from generate_series(1, 500)")
    })
  },
]

for (let row = 0; row < Number(ROWS); row++) {
  const name = `${SEED}-${row}`
  const neighbours = NEIGHBOURS.filter(() => random.uniform() < 0.7)
  await Promise.all([
    write(`${name} transaction`),
    ...neighbours.map((neighbour) => neighbour()),
    ...(random.uniform() < 0.5 ? [insert(`${name} statement`)] : []),
    setTimeout(random.between(0, 30)).then(() => write(`${name} later`)),
  ])
}
await close()
