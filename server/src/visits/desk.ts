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
  type Decision,
  keyedCalibration,
  mayBeRepeated,
  resultAt,
  stepsToRepeat,
  type VisitEntry,
} from '@frustum/core'
import { eq, sql } from 'drizzle-orm'
import { proposedCauses } from '../ageing/confirmedCauses.ts'
import type { Database, Transaction } from '../database/open.ts'
import { visits } from '../database/schema.ts'
import { holdOutputs, releaseOutputs } from '../holds/holds.ts'
import { refuseOther } from '../http/doneOnce.ts'
import { readBody } from '../http/validate.ts'
import { chosenInstruments, knownInstruments } from '../instruments/instruments.ts'
import type { Links } from '../links/links.ts'
import { Problem } from '../problem.ts'
import { type OpenedVisit, openVisit } from '../records/openVisit.ts'
import type { Actor } from './actor.ts'
import { appendEntry } from './append.ts'
import { CalibrationWrites } from './calibrationWrites.ts'
import { type Given, keyedInCalibration, seenToCalibrate } from './giving.ts'
import { LiveDesks } from './liveDesks.ts'
import { type StartRequest, startVisit } from './start.ts'
import { type TypedBody, temperatureBeside, typedLine } from './typing.ts'
import { visitView } from './view.ts'

/** What a command adds to the record, from the visit as it stands: a line, or a line and what follows from it. */
type Command = (visit: OpenedVisit) => Added | Promise<Added>
type Added = VisitEntry | readonly VisitEntry[]
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

  lotsChanged(): Promise<void> {
    return this.desks.lotsChanged()
  }

  open(id: string): Promise<OpenedVisit> {
    return openVisit(this.db, id)
  }

  done(id: string, actor: Actor, step: string): Promise<VisitView> {
    return this.atStep(id, actor, step, async ({ progress, installed: { position } }) => {
      if (!['confirm', 'wait'].includes(progress.current?.kind ?? '')) throw staleStep()
      const of = { positionId: position.id, position: position.code, visitId: id }
      const author = { operator: actor.operator, at: new Date(this.clock.now()) }
      if (step === 'hold') await holdOutputs(this.db, this.links, of, author)
      if (step === 'release') await releaseOutputs(this.db, this.links, of, author)
      return { type: 'done', step }
    })
  }

  skip(id: string, actor: Actor, step: string, reason: string): Promise<VisitView> {
    return this.atStep(id, actor, step, ({ progress }) => {
      if (progress.current?.usualSkips.length === 0) {
        throw new Problem(409, 'not-skippable', 'This step cannot be skipped.', { hint: 'Do it, or end the visit.' })
      }
      return { type: 'skipped', step, reason }
    })
  }

  wait(id: string, actor: Actor, step: string, minutes: number): Promise<VisitView> {
    return this.atStep(id, actor, step, ({ progress: { current } }) => {
      if (current?.kind !== 'wait') throw staleStep()
      return { type: 'waiting', step, minutes, shared: current.shared ?? false }
    })
  }

  redo(
    id: string,
    actor: Actor,
    { step, reason, keeps }: { step: string; reason: string; keeps?: boolean | undefined },
  ): Promise<VisitView> {
    return this.command(id, actor, ({ progress }) => {
      const state = progress.steps.find((s) => s.step.key === step)
      if (!state) throw staleStep()
      if (keeps && !mayBeRepeated(progress, state)) {
        throw new Problem(409, 'not-repeatable', 'This reading cannot be repeated any more.', {
          detail: 'Something rests on it already, or it was read three times.',
          hint: 'Take the step again instead; then the new reading counts.',
        })
      }
      return { type: 'redo', step, reason, ...(keeps ? { keeps } : {}) }
    })
  }

  abandon(id: string, actor: Actor, reason: string): Promise<VisitView> {
    return this.command(id, actor, () => ({ type: 'abandoned', reason }))
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
      return {
        type: 'captured',
        step,
        reading: desk.session.capture(earlyReason, this.links.live.isStale(desk.position)),
      }
    })
  }

  /** Keeps a number that was read by eye; one that stood still by the operator's own watch is captured with it. */
  async typed(id: string, actor: Actor, step: string, typed: TypedBody): Promise<VisitView> {
    const known = typed.temperatureFrom === 'thermometer' ? await knownInstruments(this.db) : []
    const thermometers = known.filter((i) => i.kind === 'thermometer')
    const view = await this.atStep(id, actor, step, ({ progress }) => ({
      type: 'typed',
      step,
      ...typedLine(progress, typed, thermometers),
    }))
    if (view.current !== step || !(typed.still || view.now?.freezes)) return view
    try {
      return await this.capture(id, { ...actor, actionId: undefined }, step)
    } catch (problem) {
      // What speaks against it stands beside it on the Bench; the number is kept.
      if (problem instanceof Problem && problem.code === 'not-stable') return view
      throw problem
    }
  }

  fill(id: string, actor: Actor, step: string, typed: Record<string, unknown>): Promise<VisitView> {
    return this.atStep(id, actor, step, async (visit) => {
      const fields = visit.progress.current?.fields
      if (!fields) throw staleStep()
      await readBody(formSchema(fields), typed)
      const read = await chosenInstruments(this.db, fields, formValues(fields, typed))
      const filled: VisitEntry = { type: 'filled', step, ...read }
      if (!visit.progress.current?.calibrates) return filled
      const given = await seenToCalibrate(this.links, visit, filled, this.clock.now())
      return given ? [filled, { type: 'applied', ...given }] : filled
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

  decide(
    id: string,
    actor: Actor,
    step: string,
    { decision, note }: { decision: Decision; note?: string | undefined },
  ): Promise<VisitView> {
    return this.atStep(id, actor, step, ({ procedure, progress }) => {
      const result = resultAt(procedure, progress, step)
      if (!result) throw staleStep()
      if (!result.choices.includes(decision)) {
        throw new Problem(409, 'no-result', 'That cannot be decided on these points.', {
          hint: 'Take the points again, or choose one of the decisions that are offered.',
        })
      }
      const proposed = result.proposal.decision
      if (decision !== proposed && (note ?? '').length < 3) {
        throw new Problem(400, 'note-needed', 'You decide otherwise than proposed.', {
          hint: 'Add a note that says why.',
          fields: { note: 'Say why in a few words.' },
        })
      }
      const reopens = decision === 'repeat' ? { reopens: stepsToRepeat(progress, step) } : {}
      return { type: 'decided', step, decision, proposed, note: note || null, ...reopens }
    })
  }

  async apply(
    id: string,
    actor: Actor,
    { way, ...given }: Omit<Given, 'way'> & { way: Given['way'] | 'link' },
  ): Promise<VisitView> {
    if (way === 'link') return this.writeToDevice(id, actor)
    return this.atStep(id, actor, 'apply', async (visit) => {
      const result = resultAt(visit.procedure, visit.progress, 'apply')
      if (!result || result.apply.length === 0) throw staleStep()
      return {
        type: 'applied',
        ...(await keyedInCalibration(this.links, visit, keyedCalibration(result), { way, ...given })),
      }
    })
  }

  private async writeToDevice(id: string, actor: Actor): Promise<VisitView> {
    const opened = await this.open(id)
    if (isRepeated(opened, actor)) return visitView(this.db, opened, this.clock.now())
    const after = await this.writes.write(id, actor, ({ row, progress }) => {
      if (row.closedAt) throw closed()
      requireHold(row, actor)
      if (progress.current?.key !== 'apply') throw staleStep()
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
      if (visit.progress.current?.key !== step) throw staleStep()
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

const staleStep = () =>
  new Problem(409, 'stale-step', 'The visit has moved on meanwhile.', { hint: 'Look at the step that is open now.' })

const closed = () => new Problem(409, 'closed', 'This visit is closed; its record stands.')
