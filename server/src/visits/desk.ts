import {
  type Clock,
  displayBounds,
  formSchema,
  formValues,
  typedBounds,
  type VisitLive,
  type VisitView,
} from '@frustum/contract'
import {
  assumedTemperature,
  entryOf,
  keyedCalibration,
  keyedInEntry,
  keyPressedEntry,
  requireStep,
  resultToApply,
  staleStep,
  type TypedReading,
  temperatureBeside,
  typedLine,
  type VisitCommand,
  type VisitEntry,
  VisitRefusal,
  type VisitSnapshot,
} from '@frustum/core'
import { eq, sql } from 'drizzle-orm'
import { proposedCauses } from '../ageing/confirmedCauses.ts'
import type { Database, Transaction } from '../database/open.ts'
import { visits } from '../database/schema.ts'
import { readKeyedCalibration } from '../devices/deviceCalibration.ts'
import type { Links } from '../devices/links.ts'
import { holdOutputs, releaseOutputs } from '../holds/holds.ts'
import { refuseOther } from '../http/doneOnce.ts'
import { readBody } from '../http/validate.ts'
import { chosenInstruments, knownInstruments } from '../instruments/instruments.ts'
import { Problem } from '../problem.ts'
import { type OpenedVisit, openVisit } from '../records/openVisit.ts'
import { standardsFrom } from '../records/setup.ts'
import { pastSettling } from '../sensors.ts'
import type { Actor } from './actor.ts'
import { appendEntry } from './append.ts'
import { CalibrationWrites } from './calibrationWrites.ts'
import { LiveDesks } from './liveDesks.ts'
import { type StartRequest, startVisit } from './start.ts'
import { visitView } from './view.ts'

/** What a command adds to the record, from the visit as it stands: a line, or a line and what follows from it. */
type Command = (visit: OpenedVisit) => Added | Promise<Added>
type Added = VisitEntry | readonly VisitEntry[]
interface ApplyBody {
  way: 'keyed' | 'link'
  shownAfter?: string | undefined
  why?: string | undefined
}
type Holder = Pick<typeof visits.$inferSelect, 'holderClient' | 'holderName' | 'heldSince'>

/** Runs visits: every action is on disk before it is answered. */
export class VisitDesk {
  /** Calibrations on their way to devices. */
  readonly writes: CalibrationWrites
  private readonly desks: LiveDesks

  constructor(
    private readonly db: Database,
    private readonly links: Links,
    private readonly clock: Clock,
  ) {
    this.desks = new LiveDesks(db, links.live, clock)
    this.writes = new CalibrationWrites(db, links, clock)
  }

  async start(body: StartRequest): Promise<VisitView> {
    return this.view(await startVisit(this.db, this.links, body, new Date(this.clock.now())))
  }

  async view(id: string): Promise<VisitView> {
    return visitView(this.db, await this.open(id), this.clock.now())
  }

  /** Everything that the visit needs to run somewhere else. */
  async snapshot(id: string): Promise<VisitSnapshot> {
    const { row, installed, procedure, setup, startedAt, lines } = await this.open(id)
    const { signatures: past } = await pastSettling(this.db, installed.installation.id, row.startedAt)
    return {
      procedure: procedure.id,
      // What is poured now is what is recorded.
      setup: { ...setup, standards: await standardsFrom(this.db, row.settings.standards, this.clock.now()) },
      startedAt,
      lines,
      past,
      thermometers: await this.thermometers(),
    }
  }

  private async thermometers() {
    return (await knownInstruments(this.db)).filter((i) => i.kind === 'thermometer')
  }

  lotsChanged(): Promise<void> {
    return this.desks.lotsChanged()
  }

  open(id: string): Promise<OpenedVisit> {
    return openVisit(this.db, id)
  }

  done(id: string, actor: Actor, step: string): Promise<VisitView> {
    return this.command(id, actor, async (visit) => {
      const entry = entryOf(visit, { type: 'done', step })
      const { position } = visit.installed
      const of = { positionId: position.id, position: position.code, visitId: id }
      const author = { operator: actor.operator, at: new Date(this.clock.now()) }
      if (step === 'hold') await holdOutputs(this.db, this.links, of, author)
      if (step === 'release') await releaseOutputs(this.db, this.links, of, author)
      return entry
    })
  }

  /** Whatever follows from the record alone. */
  act(id: string, actor: Actor, command: VisitCommand): Promise<VisitView> {
    return this.command(id, actor, (visit) => entryOf(visit, command))
  }

  capture(
    id: string,
    actor: Actor,
    step: string,
    { earlyReason, temperature }: { earlyReason?: string | undefined; temperature?: string | undefined } = {},
  ): Promise<VisitView> {
    return this.atStep(id, actor, step, async ({ progress }) => {
      const desk = await this.desks.desk(id)
      // Pressed between two answers of a line that is late: the next one is the one to keep.
      await this.links.live.fresh(desk.position)
      if (desk.session.setting.step?.key !== step) throw staleStep()
      if (temperature) desk.session.warmTo(temperatureBeside(progress, temperature))
      const stale = this.links.live.isStale(desk.position)
      return { type: 'captured', step, reading: desk.session.capture({ now: this.clock.now(), earlyReason, stale }) }
    })
  }

  /** Keeps a number that was read by eye; one that stood still by the operator's own watch is captured with it. */
  async typed(id: string, actor: Actor, step: string, typed: TypedReading): Promise<VisitView> {
    const thermometers = typed.temperatureFrom === 'thermometer' ? await this.thermometers() : []
    const view = await this.atStep(id, actor, step, ({ progress }) => ({
      type: 'typed',
      step,
      ...typedLine(progress, typed, thermometers),
    }))
    if (view.current !== step || !(typed.still || view.now?.freezes)) return view
    try {
      return await this.capture(id, { ...actor, actionId: undefined }, step)
    } catch (problem) {
      // The Bench shows what is wrong; the number is kept.
      if (problem instanceof VisitRefusal && problem.refusal.code === 'not-stable') return view
      throw problem
    }
  }

  fill(id: string, actor: Actor, step: string, typed: Record<string, unknown>): Promise<VisitView> {
    return this.atStep(id, actor, step, async (visit) => {
      const fields = visit.progress.current?.fields
      if (!fields) throw staleStep()
      await readBody(formSchema(fields), typed)
      const read = await chosenInstruments(this.db, fields, formValues(fields, typed))
      const filled = entryOf(visit, { type: 'fill', step, ...read })
      if (filled.type !== 'filled' || !visit.progress.current?.calibrates) return filled
      // Over a connection the device says itself what it computes with since.
      const held = await this.links
        .link(visit.setup.position)
        ?.calibration?.read()
        .catch(() => null)
      const applied = keyPressedEntry(visit, visit.lines, filled, { held: held ?? null, now: this.clock.now() })
      return applied ? [filled, applied] : filled
    })
  }

  async typing(id: string) {
    const { setup, progress } = await this.open(id)
    const { current, evidence } = progress
    return {
      bounds: typedBounds(setup.kind, setup.device, setup.shows),
      assumed: current && assumedTemperature(evidence, current),
    }
  }

  async display(id: string) {
    const { setup } = await this.open(id)
    return displayBounds(setup.kind, setup.device)
  }

  async apply(id: string, actor: Actor, { way, shownAfter, why }: ApplyBody): Promise<VisitView> {
    if (way === 'link') return this.writeToDevice(id, actor)
    return this.atStep(id, actor, 'apply', async (visit) => {
      const keyed = keyedCalibration(resultToApply(visit))
      const calibration = this.links.link(visit.setup.position)?.calibration
      const held = calibration ? await readKeyedCalibration(calibration, visit.progress.evidence.model, keyed) : null
      return keyedInEntry(visit, { held, shownAfter, why })
    })
  }

  private async writeToDevice(id: string, actor: Actor): Promise<VisitView> {
    const opened = await this.open(id)
    if (isRepeated(opened, actor)) return visitView(this.db, opened, this.clock.now())
    const after = await this.writes.write(id, actor, ({ row, progress }) => {
      if (row.closedAt) throw closed()
      requireHold(row, actor)
      requireStep({ progress }, 'apply')
    })
    return this.told(after)
  }

  takeOver(id: string, actor: Actor): Promise<VisitView> {
    const holder = { holderClient: actor.clientId, holderName: actor.operator, heldSince: new Date(this.clock.now()) }
    return this.command(id, actor, ({ row }) => ({ type: 'taken-over', from: row.holderName ?? 'nobody' }), holder)
  }

  /** See LiveDesks.watch. */
  watch(id: string, listener: (message: VisitLive) => void): Promise<() => void> {
    return this.desks.watch(id, listener)
  }

  private async told(opened: OpenedVisit): Promise<VisitView> {
    await this.desks.refresh(opened)
    return visitView(this.db, opened, this.clock.now())
  }

  private atStep(id: string, actor: Actor, step: string, command: Command): Promise<VisitView> {
    return this.command(id, actor, (visit) => {
      requireStep(visit, step)
      return command(visit)
    })
  }

  /**
   * Loads the visit once, writes one line of its record and all that follows from it, and answers with what came of it.
   * @param newHolder who takes the visit over with it; otherwise only its present holder may act
   */
  private async command(id: string, actor: Actor, command: Command, newHolder?: Holder): Promise<VisitView> {
    const opened = await this.open(id)
    if (isRepeated(opened, actor)) return visitView(this.db, opened, this.clock.now())
    if (opened.row.closedAt) throw closed()
    if (!newHolder) {
      this.writes.refuseWhileWriting(id)
      requireHold(opened.row, actor)
    }
    const entries = [await command(opened)].flat()
    // Asked before the transaction: it reads the whole site.
    const proposed =
      opened.procedure.id === 'retire'
        ? await proposedCauses(this.db, opened.installed.installation.id, this.clock.now())
        : []
    const after = await this.db.transaction(async (tx) => {
      const row = await this.locked(tx, id)
      if (row.lines !== opened.revision) return null
      if (!newHolder) requireHold(row, actor)
      let visit = opened
      for (const [i, entry] of entries.entries()) {
        const author = { ...actor, proposed, ...(i > 0 ? { actionId: undefined } : {}) }
        visit = await appendEntry(tx, visit, author, entry, this.clock.now())
      }
      if (!newHolder) return visit
      await tx.update(visits).set(newHolder).where(eq(visits.id, id))
      return { ...visit, row: { ...visit.row, ...newHolder } }
    })
    // Another action came in between: this one is judged by the visit as it is now.
    return after ? this.told(after) : this.command(id, actor, command, newHolder)
  }

  /** The lock keeps two actions at the same moment from both finding the step still open. */
  private async locked(tx: Transaction, id: string) {
    const { rows } = await tx.execute<{ holderClient: string | null; holderName: string | null; lines: number }>(sql`
      select holder_client as "holderClient", holder_name as "holderName",
        (select count(*)::int from visit_entries where visit_id = visits.id) as lines
      from visits where id = ${id} for update`)
    return rows[0] as (typeof rows)[number]
  }
}

/** Whether this very action is on record: it was sent twice. @throws Problem 409 where its id is that of another one */
function isRepeated({ actions }: OpenedVisit, { actionId, fingerprint = '' }: Actor): boolean {
  if (!actionId || !actions.has(actionId)) return false
  refuseOther(actions.get(actionId), fingerprint)
  return true
}

function requireHold(row: Pick<OpenedVisit['row'], 'holderClient' | 'holderName'>, actor: Actor): void {
  if (!row.holderClient || row.holderClient === actor.clientId) return
  throw new Problem(409, 'held', `${row.holderName} has this sensor in hand.`, { hint: 'Take it over first.' })
}

const closed = () => new Problem(409, 'closed', 'This visit is closed; its record stands.')
