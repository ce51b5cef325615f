import { type ConnectionSettings, FINDABLE, type FindBody, isModbus, type SearchView } from '@frustum/contract'
import { eq } from 'drizzle-orm'
import { connections, positions } from '../../database/schema.ts'
import type { RouteContext } from '../../http/routeContext.ts'
import { notFound, Problem } from '../../problem.ts'
import { Exchanges } from '../exchanges.ts'
import { readDisplayed } from '../finder/display.ts'
import type { Bus } from '../link.ts'
import { FieldFinder } from '../protocols/messages/fieldFinder.ts'
import { type FieldSource, page, sentBy, topicsBelow } from '../protocols/messages/fieldSources.ts'
import { Finder, type Shown, type Typed } from '../protocols/modbus/finder/finder.ts'
import { POLITE_MS } from '../protocols/modbus/finder/scan.ts'
import { ModbusConnection } from '../protocols/modbus/modbusConnection.ts'
import { ModbusLine } from '../protocols/modbus/modbusLine.ts'
import { checkSettings, secretOf } from './lines.ts'

/** Searches at once. Beyond it, the one that was left alone for longest ends. */
const MOST = 8

interface Search {
  finder: Finder | FieldFinder
  operator: string
  connection: string
  startedAt: number
}

/** Searches of people who connect a device. Lost with the process: nothing in them is a record. */
export class Finders {
  private readonly running = new Map<string, Search>()

  constructor(private readonly context: Pick<RouteContext, 'db' | 'links' | 'clock'>) {}

  /** @throws Problem that names the field */
  async start(body: FindBody): Promise<Finder | FieldFinder> {
    const { db } = this.context
    const shown = readShown(body.shown as Typed)
    const { connectionId: id = null } = body
    const [known] = id === null ? [] : await db.select().from(connections).where(eq(connections.id, id))
    const protocol = known?.protocol ?? body.protocol
    if (!protocol) {
      throw new Problem(400, 'invalid', 'Choose how it is reached.', {
        fields: { protocol: 'Choose how it is reached.' },
      })
    }
    // What devices say by themselves can be looked at as it is; registers are nothing but numbers.
    if (isModbus(protocol) && Object.keys(shown).length === 0) {
      throw new Problem(400, 'invalid', 'Type what the display reads now.', {
        fields: { value: 'Type what the display reads now.' },
      })
    }
    const settings = known?.settings ?? (body.settings as ConnectionSettings)
    checkSettings(protocol, settings)
    const secret = body.secret !== undefined ? body.secret || null : id === null ? null : await secretOf(db, id)
    const bus = { protocol, settings, secret }
    const looked = { shown, typed: body.shown as Typed }
    const finder = isModbus(protocol)
      ? this.amongRegisters(id, bus, { ...looked, unit: body.unit ?? null })
      : new FieldFinder(await this.sourceOf(bus, body), looked)
    this.makeRoom()
    const { operator } = body
    const connection = known?.name ?? settings.host ?? settings.url ?? protocol
    this.running.set(finder.id, { finder, operator, connection, startedAt: this.context.clock.now() })
    return finder
  }

  private makeRoom(): void {
    for (const [id, { finder }] of this.running) if (finder.ended) this.running.delete(id)
    const alone = [...this.running.values()].sort((a, b) => a.finder.seenAt - b.finder.seenAt)
    for (const { finder } of alone.slice(0, Math.max(0, alone.length + 1 - MOST))) finder.stop()
  }

  /** Searches that are under way. */
  list(): SearchView[] {
    return [...this.running].flatMap(([id, { finder, ...search }]) => (finder.ended ? [] : [{ id, ...search }]))
  }

  private amongRegisters(
    id: number | null,
    bus: Bus,
    looked: { shown: Shown; typed: Typed; unit: number | null },
  ): Finder {
    const { links, clock } = this.context
    const open = id === null ? null : links.driver(id)
    const own = open instanceof ModbusConnection ? null : new ModbusLine(bus, new Exchanges(clock))
    const line = open instanceof ModbusConnection ? open.line : (own as ModbusLine)
    return new Finder({ line, everyMs: POLITE_MS, close: () => own?.close() }, looked)
  }

  private async sourceOf(bus: Bus, { address, position }: FindBody): Promise<FieldSource> {
    if (bus.protocol === 'mqtt') return topicsBelow(bus, address.topic || '#')
    if (bus.protocol === 'http') return page(bus, address.path ?? '')
    const [on] =
      position === undefined ? [] : await this.context.db.select().from(positions).where(eq(positions.id, position))
    if (!on) throw notFound('position')
    return sentBy(this.context.links.sent, on.deviceId)
  }

  /** @throws Problem 404 */
  of(id: string): Finder | FieldFinder {
    const search = this.running.get(id)
    if (!search) throw notFound('search')
    return search.finder
  }

  look(
    id: string,
    {
      shown,
      ...more
    }: { shown: Typed; unit?: number | undefined; further?: boolean | undefined; withdraw?: number | undefined },
  ): Finder | FieldFinder {
    const finder = this.of(id)
    finder.look({ ...more, shown: readShown(shown), typed: shown })
    return finder
  }

  stop(): void {
    for (const { finder } of this.running.values()) finder.stop()
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
