import { createServer } from 'node:http'
import { portOf } from './freePort.ts'
import { jsonOf, type Told, xmlOf } from './messages.ts'

/** Status pages on loopback, each with what the sensors on it read, in the language that its name ends in. */
export async function startPages(pages: ReadonlyMap<string, readonly Told[]>) {
  const server = createServer((req, res) => {
    const path = (req.url ?? '').replace(/^\//, '')
    const told = pages.get(path)
    if (!told) {
      res.writeHead(404).end('no such page')
      return
    }
    // A device that is off its network lets whoever asks wait.
    if (told.some(({ transmitter }) => transmitter.silent)) return
    const isXml = path.endsWith('.xml')
    res.writeHead(200, { 'content-type': isXml ? 'application/xml' : 'application/json' })
    res.end(isXml ? xmlOf(told) : jsonOf(told))
  })
  const port = await portOf(server)
  return {
    port,
    close: async () => {
      server.closeAllConnections()
      await new Promise<void>((resolve) => server.close(() => resolve()))
    },
  }
}
