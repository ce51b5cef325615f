import type { Request, Response } from 'express'
import { stillMay } from './signedIn.ts'

/** Opens a stream of server-sent events. `send` writes one message; `onClose` runs when the browser goes away. */
export function openStream(req: Request, res: Response, onClose: () => void) {
  res.writeHead(200, {
    'Content-Type': 'text/event-stream; charset=utf-8',
    'Cache-Control': 'no-store',
    Connection: 'keep-alive',
    'X-Accel-Buffering': 'no',
  })
  res.write('retry: 1000\n\n')
  const beat = setInterval(async () => {
    if (await stillMay(req).catch(() => true)) res.write(': still here\n\n')
    else res.end()
  }, 15_000)
  req.on('close', () => {
    clearInterval(beat)
    onClose()
  })
  const sendText = (text: string) => void res.write(`data: ${text}\n\n`)
  return { sendText, send: (message: unknown) => sendText(JSON.stringify(message)) }
}
