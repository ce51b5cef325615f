import { connect } from 'node:net'
import { Worker } from 'node:worker_threads'
import { expect, onTestFinished } from 'vitest'

/** Listens, and never takes a connection: its thread stands still. With its queue full, further ones get no answer at all. */
export async function unreachable(): Promise<number> {
  const thread = new Worker(
    `const { parentPort } = require('node:worker_threads')
     const server = require('node:net').createServer().listen({ port: 0, host: '127.0.0.1', backlog: 1 }, () => {
       parentPort.postMessage(server.address().port)
       setImmediate(() => Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0))
     })`,
    { eval: true },
  )
  onTestFinished(() => void thread.terminate())
  const port = await new Promise<number>((resolve) => thread.once('message', resolve))
  const queued = Array.from({ length: 8 }, () => connect(port, '127.0.0.1').on('error', () => undefined))
  onTestFinished(() => {
    for (const socket of queued) socket.destroy()
  })
  // Until one of them waits in vain, the queue is not full.
  await expect.poll(() => queued.some((s) => !s.pending)).toBe(true)
  return port
}
