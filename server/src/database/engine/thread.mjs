// @ts-check
import { cpSync } from 'node:fs'
import { setFlagsFromString } from 'node:v8'
import { parentPort, workerData } from 'node:worker_threads'
import { PGlite } from '@electric-sql/pglite'
import { DurableFiles } from './durableFiles.mjs'

/**
 * The database, in a thread of its own: neither a long query nor a sync of the disk holds up live readings. Plain
 * JavaScript, so that it is loaded as it stands, without anything that would have to be loaded before.
 *
 * @typedef {{ id: number, call: 'query', sql: string, params: any[], rowMode: 'array' | 'object', blob?: Blob }} Query
 * @typedef {{ id: number, call: 'exec', sql: string }} Exec
 * @typedef {{ id: number, call: 'copy', to: string }} Copy
 * @typedef {{ id: number, call: 'close' }} Close
 * @typedef {Query | Exec | Copy | Close} Call
 */

// A function of the database is optimised after a hundred times the usual work: else a start spends a third of its
// processor time on making faster what it does once.
setFlagsFromString('--wasm-tiering-budget=180000000')

const port = /** @type {import('node:worker_threads').MessagePort} */ (parentPort)

/** As it came, for the query builder to read: instants with their zone. */
const asText = (/** @type {string} */ text) => text
const TIMES = [1082, 1114, 1184, 1186, 1115, 1182, 1185, 1187, 1231]
const parsers = Object.fromEntries(TIMES.map((type) => [type, asText]))

const SETTINGS = {
  // The other ways of syncing do nothing in this build.
  wal_sync_method: 'fsync',
  // All of it is written with zeros at each start, and the disk's own cache stands behind it.
  shared_buffers: '32MB',
}

/** What PostgreSQL said last of something that ended it. */
let lastWords = ''

const database = new PGlite({
  onStderr: (line) => {
    lastWords = /(?:FATAL|PANIC): +(.*)/.exec(line)?.[1] ?? lastWords
    // It answers nothing any more, neither what was asked before nor what comes.
    if (line.includes('PANIC:')) port.postMessage({ panic: lastWords })
    return false
  },
  fs: new DurableFiles(workerData.path),
  // As the library has it, but that it syncs.
  startParams: [
    ...PGlite.defaultStartParams.filter((p) => p !== '-F'),
    ...Object.entries(SETTINGS).flatMap(([name, value]) => ['-c', `${name}=${value}`]),
  ],
})

/** @param {Call} asked */
async function answer(asked) {
  switch (asked.call) {
    case 'query': {
      const { sql, params, rowMode, blob } = asked
      return database.query(sql, params, { rowMode, parsers, ...(blob && { blob }) })
    }
    case 'exec':
      return database.exec(asked.sql)
    case 'copy':
      // Nothing else runs in this thread, so that the files are of one moment; the checkpoint puts all of it there.
      await database.exec('checkpoint')
      return cpSync(workerData.path, asked.to, { recursive: true, filter: (path) => !path.endsWith('postmaster.pid') })
    case 'close':
      return database.close()
  }
}

port.on('message', async (/** @type {Call} */ asked) => {
  try {
    port.postMessage({ id: asked.id, result: await answer(asked) })
  } catch (error) {
    const { message, ...more } = /** @type {Error} */ (error)
    // An error's own fields do not cross threads by themselves.
    port.postMessage({ id: asked.id, error: { message, ...JSON.parse(JSON.stringify(more)) } })
  }
})
await database.waitReady.catch((/** @type {Error} */ error) => {
  throw new Error(lastWords || error.message)
})
port.postMessage({ ready: true })
