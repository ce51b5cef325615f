import type { Request, Response } from 'express'

/** Opens a stream of server-sent events. `send` writes one message; `onClose` runs when the browser goes away. */
export function openStream(req: Request, res: Response, onClose: () => void): { send(message: unknown): void } {
  res.writeHead(200, {
    'Content-Type': 'text/event-stream; charset=utf-8',
    'Cache-Control': 'no-store',
    Connection: 'keep-alive',
    'X-Accel-Buffering': 'no',
  })
  res.write('retry: 1000\n\n')
  const beat = setInterval(() => res.write(': still here\n\n'), 15_000)
  req.on('close', () => {
    clearInterval(beat)
    onClose()
  })
  return { send: (message) => void res.write(`data: ${JSON.stringify(message)}\n\n`) }
}
