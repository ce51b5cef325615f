import type { Clock, RawView } from '@frustum/contract'
import { Exchanges } from '../../exchanges.ts'
import { ILLEGAL_ADDRESS, ILLEGAL_VALUE, LineProblem } from '../../lineProblem.ts'
import type { Bus, Driver, FollowedDevice, FollowedSensor, LineState, Link, Told, Tried } from '../../link.ts'
import { rawReadings, readingOf } from '../../mapping/readSensor.ts'
import { type Block, blockOf, placesOf, together } from './blocks.ts'
import { calibrationOver, holdOver } from './modbusCalibration.ts'
import { ModbusLine } from './modbusLine.ts'
import { registerMapping } from './place.ts'
import { dataIn, readBlock, type Stretch, wordsFor } from './stretches.ts'

/** So often does a device have to leave a question unanswered before it is called blind. */
const TRIES = 2
/** Whoever did not answer once is asked again so soon, ms: a restart, or one lost frame, is no silence. */
const SECOND_TRY_MS = 100
/** How long the dead are left alone: longer each time, ms. */
const REST = { first: 1000, longest: 10_000, watched: 1500 } as const
/** The dead may take this share of the time of those who share a line with them. */
const DEAD_SHARE = 0.1
/** A device that refuses what is asked is asked no more often than this, ms. */
const REFUSED_MS = 1000
/** What a device refused once is tried again after this long, ms: it may have been set up since. */
const FORGET_REFUSALS_MS = 10 * 60_000

interface Unit {
  device: FollowedDevice
  number: number
  /** What is asked of it at a turn. */
  plan: Block[]
  /** How far it lets stretches be joined: with gaps, without, or not at all. */
  joins: 'gaps' | 'adjacent' | 'none'
  refused: Set<string>
  refusedUntil: number
  stretches: Stretch[]
  due: number
  failures: number
  /** Why it is called blind; null while it is not. */
  why: LineProblem | null
}

/** Modbus devices on one bus or gateway, read in turn: by blocks, one request at a time, the dead seldom. */
export class ModbusConnection implements Driver {
  readonly exchanges: Exchanges
  readonly line: ModbusLine
  private units: Unit[] = []
  private closed = false
  private wake: () => void = () => undefined
  private lineState: LineState
  /** Before this, ms of the process, nobody dead is asked, so that the living keep their time. */
  private deadFreeAt = 0

  constructor(
    bus: Pick<Bus, 'protocol' | 'settings'>,
    private readonly everyMs: number,
    private readonly clock: Clock,
    private readonly told: Told,
  ) {
    this.exchanges = new Exchanges(clock)
    this.line = new ModbusLine(bus, this.exchanges)
    this.lineState = { kind: 'waiting', since: clock.now(), why: null }
    void this.run()
  }

  state(): LineState {
    return this.lineState
  }

  follow(devices: readonly FollowedDevice[]): void {
    const now = performance.now()
    this.units = devices
      .filter((device) => device.sensors.length > 0)
      .map((device) => {
        const known = this.units.find((u) => u.device.id === device.id && u.number === device.address.unit)
        const unit: Unit = {
          device,
          number: Number(device.address.unit ?? 1),
          plan: [],
          joins: 'gaps',
          refused: new Set(),
          refusedUntil: 0,
          stretches: [],
          due: known?.due ?? now,
          failures: known?.failures ?? 0,
          why: known?.why ?? null,
        }
        plan(unit)
        return unit
      })
    this.wake()
  }

  link(sensorId: number): Link | null {
    const found = this.find(sensorId)
    if (!found) return null
    const { unit, sensor } = found
    const over = { line: this.line, unit: unit.number, sensor }
    return { calibration: calibrationOver(over), hold: holdOver(over) }
  }

  raw(sensorId: number): RawView[] {
    const found = this.find(sensorId)
    return found ? rawReadings(found.sensor, dataIn(found.unit.stretches, registerMapping(found.sensor.mapping))) : []
  }

  async tryOnce(device: FollowedDevice): Promise<Tried> {
    const [sensor] = device.sensors
    const unit: Unit = {
      device,
      number: Number(device.address.unit ?? 1),
      plan: [],
      joins: 'none',
      refused: new Set(),
      refusedUntil: Number.POSITIVE_INFINITY,
      stretches: [],
      due: 0,
      failures: 0,
      why: null,
    }
    plan(unit)
    const at = this.clock.now()
    await this.readBlocks(unit)
    if (!sensor) return { raw: [], reading: null, why: null }
    const data = dataIn(unit.stretches, registerMapping(sensor.mapping))
    const raw = rawReadings(sensor, data).map((r) =>
      r.missing === 'did not come' ? { ...r, missing: 'is not there: the device refuses its address' } : r,
    )
    try {
      const reading = readingOf(sensor, data, { at, temperatureAt: (code) => this.told.temperatureAt(code) })
      return { raw, reading, why: null }
    } catch (problem) {
      return { raw, reading: null, why: (problem as Error).message }
    }
  }

  close(): void {
    this.closed = true
    this.line.close()
    this.wake()
  }

  private find(sensorId: number): { unit: Unit; sensor: FollowedSensor } | null {
    for (const unit of this.units) {
      const sensor = unit.device.sensors.find((s) => s.id === sensorId)
      if (sensor) return { unit, sensor }
    }
    return null
  }

  private async run(): Promise<void> {
    while (!this.closed) {
      const { unit, waitMs } = this.next(performance.now())
      if (unit) await this.turn(unit)
      else await this.sleep(waitMs)
    }
  }

  private sleep(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms)
      this.wake = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }

  /** Whose turn it is: a dead one when the living have had their share, else who has waited longest. */
  private next(now: number): { unit: Unit | null; waitMs: number } {
    const dead = earliest(this.units.filter((u) => u.why !== null))
    const alive = earliest(this.units.filter((u) => u.why === null))
    const deadDue = dead ? (alive ? Math.max(dead.due, this.deadFreeAt) : dead.due) : Number.POSITIVE_INFINITY
    if (dead && deadDue <= now) return { unit: dead, waitMs: 0 }
    if (alive && alive.due <= now) return { unit: alive, waitMs: 0 }
    // A timer takes no more than 2^31 ms; whatever is followed from now on wakes it.
    return { unit: null, waitMs: Math.min(60_000, Math.max(1, Math.min(deadDue, alive?.due ?? 60_000 + now) - now)) }
  }

  private async turn(unit: Unit): Promise<void> {
    const began = performance.now()
    const at = this.clock.now()
    try {
      await this.readBlocks(unit)
      this.answered(unit, began)
      this.tell(unit, at)
    } catch (error) {
      if (this.closed || !this.units.includes(unit)) return
      const problem = error instanceof LineProblem ? error : new LineProblem('garbled', String(error))
      if (problem.answered) {
        this.answered(unit, began)
        unit.due = Math.max(unit.due, performance.now() + REFUSED_MS)
        for (const sensor of unit.device.sensors) this.told.failed(sensor.id, problem)
      } else this.unanswered(unit, problem, performance.now() - began)
    }
  }

  private answered(unit: Unit, began: number): void {
    const watched = unit.device.sensors.some((s) => this.told.isWatched(s.id))
    const every = watched ? Math.min(this.everyMs, WATCHED_EVERY_MS) : this.everyMs
    const now = performance.now()
    // Later than its time it is asked at once, and not twice to make up for it.
    unit.due = Math.max(unit.due + every, now, unit.failures > 0 ? began + every : 0)
    unit.failures = 0
    unit.why = null
    if (this.lineState.kind === 'up') return
    this.lineState = { kind: 'up', since: this.clock.now(), why: null }
    // The line is there again: all that were given up with it are asked at once.
    for (const other of this.units) if (other !== unit && other.why && isOfLine(other.why)) other.due = now
    this.deadFreeAt = 0
  }

  private unanswered(unit: Unit, problem: LineProblem, cost: number): void {
    const ofLine = isOfLine(problem)
    const concerned = ofLine ? this.units : [unit]
    for (const one of concerned) one.failures++
    for (const one of concerned) this.rest(one, problem, cost)
    const blind = this.units.every((u) => u.why !== null)
    if (blind && (this.lineState.kind !== 'down' || this.lineState.why !== problem.message)) {
      this.lineState = { kind: 'down', since: this.clock.now(), why: problem.message }
    }
    if (!blind && unit.why) this.deadFreeAt = performance.now() + cost * (1 / DEAD_SHARE - 1)
  }

  /** How long one is left alone that did not answer. */
  private rest(unit: Unit, problem: LineProblem, cost: number): void {
    const now = performance.now()
    if (unit.failures < TRIES) {
      unit.due = now + SECOND_TRY_MS
      return
    }
    unit.why = problem
    const longest = unit.device.sensors.some((s) => this.told.isWatched(s.id)) ? REST.watched : REST.longest
    unit.due = now + Math.min(longest, REST.first * 2 ** Math.min(10, unit.failures - TRIES)) + Math.min(cost, 1000)
    for (const sensor of unit.device.sensors) this.told.failed(sensor.id, problem)
  }

  private tell(unit: Unit, at: number): void {
    for (const sensor of unit.device.sensors) {
      try {
        const reading = readingOf(sensor, dataIn(unit.stretches, registerMapping(sensor.mapping)), {
          at,
          temperatureAt: (code) => this.told.temperatureAt(code),
        })
        this.told.reading(sensor.id, reading)
      } catch (error) {
        this.told.failed(sensor.id, error instanceof LineProblem ? error : new LineProblem('garbled', String(error)))
      }
    }
  }

  /** Reads all of a unit's plan. A block that it refuses is asked for in smaller ones, down to single places. */
  private async readBlocks(unit: Unit): Promise<void> {
    if (unit.refused.size > 0 && performance.now() > unit.refusedUntil) {
      unit.refused.clear()
      unit.joins = 'gaps'
      plan(unit)
    }
    const stretches: Stretch[] = []
    for (const block of [...unit.plan]) {
      try {
        stretches.push({ ...block, bytes: await this.read(unit.number, block) })
      } catch (error) {
        const { exception } = error as LineProblem
        if (exception !== ILLEGAL_ADDRESS && exception !== ILLEGAL_VALUE) throw error
        if (unit.joins !== 'none') {
          unit.joins = unit.joins === 'gaps' ? 'adjacent' : 'none'
          plan(unit)
          await this.readBlocks(unit)
          return
        }
        unit.refused.add(keyOf(block))
        if (unit.refusedUntil !== Number.POSITIVE_INFINITY) {
          unit.refusedUntil = performance.now() + FORGET_REFUSALS_MS
        }
      }
    }
    if (unit.refused.size > 0) plan(unit)
    unit.stretches = stretches
    if (stretches.length === 0 && unit.refused.size > 0) {
      unit.refused.clear()
      unit.joins = 'gaps'
      plan(unit)
      throw new LineProblem(
        'exception',
        `Unit ${unit.number} has none of the addresses that are mapped.`,
        ILLEGAL_ADDRESS,
      )
    }
  }

  private read(unit: number, block: Block): Promise<Buffer> {
    return this.line.inTurn({ unit, words: wordsFor(unit, block), ask: (client) => readBlock(client, block) })
  }
}

/** While somebody waits at the Bench, a device is asked at least so often, ms, where its line is fast enough. */
const WATCHED_EVERY_MS = 1000

const earliest = (units: readonly Unit[]): Unit | null =>
  units.reduce<Unit | null>((first, u) => (first === null || u.due < first.due ? u : first), null)

/** What goes wrong before any device is asked concerns all of them. */
const isOfLine = ({ code }: LineProblem): boolean =>
  code === 'refused' || code === 'no-connection' || code === 'no-port'

const keyOf = ({ table, address, length }: Block): string => `${table} ${address} ${length}`

/** What is asked of a unit at each turn: all that its sensors need, in as few requests as it lets itself be asked. */
function plan(unit: Unit): void {
  const single = unit.device.sensors.flatMap(({ mapping }) =>
    placesOf(mapping).map((place) => blockOf(place, registerMapping(mapping).countsFrom)),
  )
  const wanted = single.filter((block, i) => single.findIndex((b) => keyOf(b) === keyOf(block)) === i)
  const there = wanted.filter((block) => !unit.refused.has(keyOf(block)))
  unit.plan = unit.joins === 'none' ? there : together(there, unit.joins === 'gaps' ? undefined : 0)
}
