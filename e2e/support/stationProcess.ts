import { openStation, type Station, type StationOptions } from './station.ts'

/** A process of stations, opened and closed on request: one process stays warm for all journeys of a worker. */

export type StationRequest = { id: number } & (
  | { open: StationOptions }
  | { close: number }
  | { of: number; pass: number }
)
export type StationAnswer = { id: number; url?: string; folder?: string; error?: string }

const open = new Map<number, Station>()

async function answer(request: StationRequest): Promise<StationAnswer> {
  const { id } = request
  if ('open' in request) {
    const station = await openStation(request.open)
    open.set(id, station)
    return { id, url: station.url, folder: station.folder }
  }
  if ('of' in request) {
    open.get(request.of)?.pass(request.pass)
    return { id }
  }
  await open.get(request.close)?.stop()
  open.delete(request.close)
  return { id }
}

process.on('message', (request: StationRequest) => {
  answer(request)
    .catch((error) => ({ id: request.id, error: String((error as Error).stack ?? error) }))
    .then((said) => process.send?.(said))
})
process.on('disconnect', () => process.exit(0))
