import { type ConnectionSettings, FINDABLE, type Findable, type FindBody, isModbus } from '@frustum/contract'
import { eq } from 'drizzle-orm'
import { connections } from '../database/schema.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { Exchanges } from '../links/exchanges.ts'
import { readDisplayed } from '../links/finder/display.ts'
import { Finder, type Shown } from '../links/finder/finder.ts'
import { ModbusConnection } from '../links/modbus/modbusConnection.ts'
import { ModbusLine } from '../links/modbus/modbusLine.ts'
import { notFound, Problem } from '../problem.ts'
import { checkSettings } from './lines.ts'

/** So many may look for something at once: a bus has but one line. */
const MOST = 3

type Typed = Partial<Record<Findable, string>>

/** What is being looked for, by whoever connects a device. Lost with the process: nothing in it is a record. */
export class Finders {
  private readonly running = new Map<string, Finder>()

  constructor(private readonly context: Pick<RouteContext, 'db' | 'links' | 'clock'>) {}

  /** @throws Problem that names the field */
  async start(body: FindBody): Promise<Finder> {
    const { db, links, clock } = this.context
    for (const [id, finder] of this.running) if (finder.ended) this.running.delete(id)
    if (this.running.size >= MOST) {
      throw new Problem(409, 'busy', 'Others are looking for something already.', { hint: 'Stop one of them first.' })
    }
    const shown = readShown(body.shown as Typed)
    if (Object.keys(shown).length === 0) {
      throw new Problem(400, 'invalid', 'Type what the display reads now.', {
        fields: { value: 'Type what the display reads now.' },
      })
    }
    const id = body.connectionId
    const [known] = id === undefined ? [] : await db.select().from(connections).where(eq(connections.id, id))
    const protocol = known?.protocol ?? body.protocol
    if (!protocol || !isModbus(protocol)) {
      throw new Problem(400, 'invalid', 'Choose how it is reached.', {
        fields: { protocol: 'Choose how it is reached.' },
      })
    }
    const settings = known?.settings ?? (body.settings as ConnectionSettings)
    checkSettings(protocol, settings)
    const open = id === undefined ? null : links.driver(id)
    const own = open instanceof ModbusConnection ? null : new ModbusLine({ protocol, settings }, new Exchanges(clock))
    const line = open instanceof ModbusConnection ? open.line : (own as ModbusLine)
    const finder = new Finder(
      { line, close: () => own?.close() },
      { unit: body.unit ?? null, shown, typed: body.shown as Typed },
    )
    this.running.set(finder.id, finder)
    return finder
  }

  /** @throws Problem 404 */
  of(id: string): Finder {
    const finder = this.running.get(id)
    if (!finder) throw notFound('search')
    return finder
  }

  look(
    id: string,
    { shown, ...more }: { shown: Typed; unit?: number | undefined; further?: boolean | undefined },
  ): Finder {
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
    if (!read) {
      const message = 'Type it as it stands there: digits, and the unit if you like.'
      throw new Problem(400, 'invalid', message, { fields: { [name]: message } })
    }
    shown[name] = read
  }
  return shown
}
