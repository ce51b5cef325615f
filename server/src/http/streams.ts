import type { Request, Response } from 'express'
import { stillMay } from './signedIn.ts'

/** A browser that has this much unread, bytes, is cut off: it reconnects and gets the current state. */
const UNREAD_LIMIT = 1_000_000

/** Opens a stream of server-sent events. `send` writes one message; `onClose` runs when the browser goes away. */
export function openStream(req: Request, res: Response, onClose: () => void) {
  res.writeHead(200, {
    'Content-Type': 'text/event-stream; charset=utf-8',
    'Cache-Control': 'no-store',
    Connection: 'keep-alive',
    'X-Accel-Buffering': 'no',
  })
  const write = (text: string) => {
    // Ended, as every answer to HEAD is: what is still sent has no reader.
    if (res.writableEnded) return
    res.write(text)
    if (res.writableLength > UNREAD_LIMIT) res.destroy()
  }
  const beat = setInterval(async () => {
    if (await stillMay(req).catch(() => true)) write(': still here\n\n')
    else res.end()
  }, 15_000)
  res.on('close', () => {
    clearInterval(beat)
    onClose()
  })
  write('retry: 1000\n\n')
  // HEAD asks for the headers alone.
  if (req.method === 'HEAD') res.end()
  const sendText = (text: string) => write(`data: ${text}\n\n`)
  return { sendText, send: (message: unknown) => sendText(JSON.stringify(message)) }
}
