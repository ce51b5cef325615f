import { EventEmitter } from 'node:events'
import type { Request, Response } from 'express'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { openStream } from './streams.ts'

beforeEach(() => vi.useFakeTimers())
afterEach(() => vi.useRealTimers())

/** A browser that reads nothing: all that is written to it stays unread. */
class Unread extends EventEmitter {
  writableLength = 0
  writableEnded = false
  written: string[] = []
  writeHead = vi.fn()
  write(text: string) {
    this.written.push(text)
    this.writableLength += text.length
  }
  end() {
    this.writableEnded = true
    this.emit('close')
  }
  destroy = vi.fn(() => this.emit('close'))
}

const open = (method = 'GET') => {
  const res = new Unread()
  const onClose = vi.fn()
  return { res, onClose, stream: openStream({ method } as Request, res as unknown as Response, onClose) }
}

it('a browser that reads nothing is cut off before it costs more than a megabyte', () => {
  const { res, onClose, stream } = open()
  for (let n = 0; n < 90; n++) stream.sendText('x'.repeat(10_000))
  expect(res.destroy).not.toHaveBeenCalled()
  for (let n = 0; n < 20; n++) stream.sendText('x'.repeat(10_000))
  expect(res.destroy).toHaveBeenCalled()
  expect(onClose).toHaveBeenCalled()
})

it('HEAD is answered with the headers and ends, and nothing is written after it', () => {
  const { res, onClose, stream } = open('HEAD')
  expect(res.writeHead).toHaveBeenCalledWith(200, expect.objectContaining({ 'Cache-Control': 'no-store' }))
  expect([res.writableEnded, onClose.mock.calls.length]).toEqual([true, 1])
  const before = res.written.length
  stream.send({ late: true })
  expect(res.written).toHaveLength(before)
})
