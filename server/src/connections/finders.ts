import { FINDABLE, type FindBody, type LookBody, type SearchView } from '@frustum/contract'
import { eq } from 'drizzle-orm'
import { connections, positions } from '../database/schema.ts'
import { readDisplayed } from '../devices/finder/display.ts'
import type { Search, Shown, Typed } from '../devices/protocols/protocol.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { notFound, Problem } from '../problem.ts'
import { readSettings, secretOf, wantedProtocol } from './lines.ts'

/** Searches at once. Beyond it, the one that was left alone for longest ends. */
const MOST = 8

interface Running {
  search: Search
  operator: string
  connection: string
  startedAt: number
}

/** Searches of people who connect a device. Lost with the process: nothing in them is a record. */
export class Finders {
  private readonly running = new Map<string, Running>()

  constructor(private readonly context: Pick<RouteContext, 'db' | 'links' | 'clock'>) {}

  /** @throws Problem that names the field */
  async start(body: FindBody): Promise<Search> {
    const { db, links, clock } = this.context
    const typed = body.shown as Typed
    const shown = readShown(typed)
    const { connectionId: id = null, operator, address } = body
    const [known] = id === null ? [] : await db.select().from(connections).where(eq(connections.id, id))
    const protocol = wantedProtocol(known?.protocol ?? body.protocol)
    if (protocol.searchesByReading && Object.keys(shown).length === 0) {
      const message = 'Enter what the display shows now.'
      throw new Problem(400, 'invalid', message, { fields: { value: message } })
    }
    const settings = known?.settings ?? readSettings(protocol, body.settings)
    const secret = body.secret !== undefined ? body.secret || null : id === null ? null : await secretOf(db, id)
    const device = protocol.ownAddress ? await this.deviceAt(body.position) : null
    const search = protocol.find({
      bus: { protocol: protocol.key, settings, secret },
      address,
      shown,
      typed,
      clock,
      open: id === null ? null : links.driver(id),
      received: () => (device === null ? undefined : links.received.get(device)),
    })
    this.makeRoom()
    const connection = known?.name ?? (protocol.reachedText(settings) || protocol.name)
    this.running.set(search.id, { search, operator, connection, startedAt: clock.now() })
    return search
  }

  private async deviceAt(position: number | undefined): Promise<number> {
    const { db } = this.context
    const [on] = position === undefined ? [] : await db.select().from(positions).where(eq(positions.id, position))
    if (!on) throw notFound('position')
    return on.deviceId
  }

  private makeRoom(): void {
    for (const [id, { search }] of this.running) if (search.ended) this.running.delete(id)
    const alone = [...this.running.values()].sort((a, b) => a.search.seenAt - b.search.seenAt)
    for (const { search } of alone.slice(0, Math.max(0, alone.length + 1 - MOST))) search.stop()
  }

  /** Searches that are under way. */
  list(): SearchView[] {
    return [...this.running].flatMap(([id, { search, ...asked }]) => (search.ended ? [] : [{ id, ...asked }]))
  }

  /** @throws Problem 404 */
  of(id: string): Search {
    const running = this.running.get(id)
    if (!running) throw notFound('search')
    return running.search
  }

  look(id: string, { shown, address, further, withdraw }: LookBody): Search {
    const search = this.of(id)
    search.look({ address, further, withdraw, shown: readShown(shown as Typed), typed: shown as Typed })
    return search
  }

  stop(): void {
    for (const { search } of this.running.values()) search.stop()
  }
}

/** @throws Problem that names what is no number */
function readShown(typed: Typed): Shown {
  const shown: Shown = {}
  for (const name of FINDABLE) {
    const text = typed[name]
    if (!text) continue
    const read = readDisplayed(text)
    if ('problem' in read) throw new Problem(400, 'invalid', read.problem, { fields: { [name]: read.problem } })
    shown[name] = read
  }
  return shown
}
