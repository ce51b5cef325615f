import { type ConnectionSettings, FINDABLE, type FindBody, isModbus } from '@frustum/contract'
import { eq } from 'drizzle-orm'
import { connections, positions } from '../database/schema.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { Exchanges } from '../links/exchanges.ts'
import { readDisplayed } from '../links/finder/display.ts'
import { FieldFinder } from '../links/finder/fieldFinder.ts'
import { type FieldSource, page, sentBy, topicsBelow } from '../links/finder/fieldSources.ts'
import { Finder, type Shown, type Typed } from '../links/finder/finder.ts'
import type { Bus } from '../links/link.ts'
import { ModbusConnection } from '../links/modbus/modbusConnection.ts'
import { ModbusLine } from '../links/modbus/modbusLine.ts'
import { notFound, Problem } from '../problem.ts'
import { checkSettings, secretOf } from './lines.ts'

/** So many may look for something at once: a bus has but one line. */
const MOST = 3

/** What is being looked for, by whoever connects a device. Lost with the process: nothing in it is a record. */
export class Finders {
  private readonly running = new Map<string, Finder | FieldFinder>()

  constructor(private readonly context: Pick<RouteContext, 'db' | 'links' | 'clock'>) {}

  /** @throws Problem that names the field */
  async start(body: FindBody): Promise<Finder | FieldFinder> {
    const { db } = this.context
    for (const [id, finder] of this.running) if (finder.ended) this.running.delete(id)
    if (this.running.size >= MOST) {
      throw new Problem(409, 'busy', 'Others are looking for something already.', { hint: 'Stop one of them first.' })
    }
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
    this.running.set(finder.id, finder)
    return finder
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
    return new Finder({ line, close: () => own?.close() }, looked)
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
    const finder = this.running.get(id)
    if (!finder) throw notFound('search')
    return finder
  }

  look(
    id: string,
    { shown, ...more }: { shown: Typed; unit?: number | undefined; further?: boolean | undefined },
  ): Finder | FieldFinder {
    const finder = this.of(id)
    finder.look({ ...more, shown: readShown(shown), typed: shown })
    return finder
  }

  stop(): void {
    for (const finder of this.running.values()) finder.stop()
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
