// @ts-check
import fs from 'node:fs'
import { syncBuiltinESMExports } from 'node:module'

/** Loaded before a program (NODE_OPTIONS=--import), in each of its threads: a sync of the disk takes SYNC_MS longer. */

const longer = Number(process.env.SYNC_MS ?? 0)
const { fsyncSync } = fs
const clock = new Int32Array(new SharedArrayBuffer(4))

fs.fsyncSync = (fd) => {
  fsyncSync(fd)
  Atomics.wait(clock, 0, 0, longer)
}
syncBuiltinESMExports()
