import { type Clock, formSchema, formValues, typedBounds, type VisitLive, type VisitView } from '@frustum/contract'
import { type Decision, nullIfOutOfRange, type Progress, readTypedNumber, type VisitEntry } from '@frustum/core'
import { and, desc, eq, sql } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { calibrations, driftObservations, events, installations, visitEntries, visits } from '../database/schema.ts'
import { readBody } from '../http/validate.ts'
import { writeDeviceCalibration } from '../links/deviceCalibration.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { noteRetirement, type Proposed, proposedCauses } from '../probes/confirmedCauses.ts'
import { Problem } from '../problem.ts'
import { drawFromLot } from '../shelf/draw.ts'
import type { Actor } from './actor.ts'
import { LiveDesks } from './liveDesks.ts'
import { foldLines, type OpenedVisit, openVisit, visitLines } from './records.ts'
import { type StartRequest, startVisit } from './start.ts'
import { resultAt, visitView, wantedCharacteristic } from './view.ts'

/** An action that waited longer than this for the network is recorded as of now, ms. */
const BELIEVED_FOR = 24 * 3_600_000

/** Runs visits: every action is on disk before it is answered. */
export class VisitDesk {
  private readonly desks: LiveDesks

  constructor(
    private readonly db: Database,
    private readonly live: LiveValues,
    private readonly clock: Clock,
  ) {
    this.desks = new LiveDesks(db, live, clock)
  }

  async start(body: StartRequest): Promise<VisitView> {
    return this.view(await startVisit(this.db, this.live, body, new Date(this.clock.now())))
  }

  async view(id: string): Promise<VisitView> {
    return visitView(this.db, await this.open(id), this.clock.now())
  }

  open(id: string): Promise<OpenedVisit> {
    return openVisit(this.db, this.live, id, this.clock.now())
  }

  async done(id: string, actor: Actor, step: string): Promise<VisitView> {
    const { progress } = await this.open(id)
    if (progress.current?.key === step && !['confirm', 'wait'].includes(progress.current.kind)) throw staleStep()
    return this.record(id, actor, step, { type: 'done', step })
  }

  async skip(id: string, actor: Actor, step: string, reason: string): Promise<VisitView> {
    const { progress } = await this.open(id)
    if (progress.current?.key === step && progress.current.usualSkips.length === 0) {
      throw new Problem(409, 'not-skippable', 'This step cannot be skipped.', { hint: 'Do it, or end the visit.' })
    }
    return this.record(id, actor, step, { type: 'skipped', step, reason })
  }

  async wait(id: string, actor: Actor, step: string, minutes: number): Promise<VisitView> {
    const { progress } = await this.open(id)
    if (progress.current?.key !== step || progress.current.kind !== 'wait') throw staleStep()
    return this.record(id, actor, step, {
      type: 'waiting',
      step,
      minutes,
      shared: progress.current.shared ?? false,
    })
  }

  async redo(id: string, actor: Actor, step: string, reason: string): Promise<VisitView> {
    return this.record(id, actor, null, { type: 'redo', step, reason })
  }

  async abandon(id: string, actor: Actor, reason: string): Promise<VisitView> {
    return this.record(id, actor, null, { type: 'abandoned', reason })
  }

  async capture(id: string, actor: Actor, step: string, earlyReason?: string): Promise<VisitView> {
    const known = await this.alreadyDone(id, actor)
    if (known) return known
    const desk = await this.desks.desk(id)
    // Pressed between two answers of a line that is late: the next one is the one to keep.
    await this.live.fresh(desk.position)
    if (desk.session.setting.step?.key !== step) throw staleStep()
    const reading = desk.session.capture(earlyReason)
    return this.record(id, actor, step, { type: 'captured', step, reading })
  }

  async typed(id: string, actor: Actor, step: string, value: string, temperature: string): Promise<VisitView> {
    const [v, t] = [readTypedNumber(value), readTypedNumber(temperature)]
    if (!v.ok || !t.ok) throw new Problem(400, 'invalid', 'Type the reading as a number.')
    return this.record(id, actor, step, { type: 'typed', step, value: v.value, temperature: t.value })
  }

  async fill(id: string, actor: Actor, step: string, typed: Record<string, unknown>): Promise<VisitView> {
    const { progress } = await this.open(id)
    const fields = progress.current?.key === step ? progress.current.fields : undefined
    if (!fields) throw staleStep()
    await readBody(formSchema(fields), typed)
    return this.record(id, actor, step, { type: 'filled', step, values: formValues(fields, typed) })
  }

  async typing(id: string) {
    const { installed } = await this.open(id)
    return typedBounds(installed.position.kind, installed.device.setting, installed.device.shows)
  }

  async decide(
    id: string,
    actor: Actor,
    step: string,
    decision: Decision,
    note: string | undefined,
  ): Promise<VisitView> {
    const known = await this.alreadyDone(id, actor)
    if (known) return known
    const opened = await this.open(id)
    if (opened.progress.current?.key !== step) throw staleStep()
    const result = resultAt(opened, step)
    if (!result) throw staleStep()
    if (!result.choices.includes(decision)) {
      throw new Problem(409, 'no-result', 'That cannot be decided on these points.', {
        hint: 'Take the points again, or choose one of the decisions that are offered.',
      })
    }
    if (decision !== result.proposal.decision && (note ?? '').length < 3) {
      throw new Problem(400, 'note-needed', 'You decide otherwise than proposed.', {
        hint: 'Add a note that says why.',
        fields: { note: 'Say why in a few words.' },
      })
    }
    const proposed = result.proposal.decision
    return this.record(id, actor, step, { type: 'decided', step, decision, proposed, note: note || null })
  }

  async apply(id: string, actor: Actor, way: 'link' | 'keyed', shownAfter: string | undefined): Promise<VisitView> {
    const known = await this.alreadyDone(id, actor)
    if (known) return known
    const opened = await this.open(id)
    const result = resultAt(opened, 'apply')
    if (opened.progress.current?.key !== 'apply' || !result || result.apply.length === 0) throw staleStep()
    const characteristic = wantedCharacteristic(result)
    if (way === 'link') {
      const link = this.live.link(opened.installed.position.code)
      if (!link || !opened.setup.writable) {
        throw new Problem(409, 'not-writable', 'This device cannot be written over its link.', {
          hint: 'Key the numbers in on the device.',
        })
      }
      await writeDeviceCalibration(link, opened.progress.evidence.model, characteristic)
    }
    const typed = shownAfter === undefined ? null : readTypedNumber(shownAfter)
    return this.record(id, actor, 'apply', {
      type: 'applied',
      way,
      characteristic,
      shownAfter: typed?.ok ? typed.value : null,
    })
  }

  async takeOver(id: string, actor: Actor): Promise<VisitView> {
    const { row } = await this.open(id)
    if (row.closedAt) throw closed()
    await this.db.transaction(async (tx) => {
      await this.append(tx, id, actor, { type: 'taken-over', from: row.holderName ?? 'nobody' })
      await tx
        .update(visits)
        .set({ holderClient: actor.clientId, holderName: actor.operator, heldSince: new Date(this.clock.now()) })
        .where(eq(visits.id, id))
    })
    return this.tellAll(id)
  }

  /** See LiveDesks.watch. */
  watch(id: string, listener: (message: VisitLive) => void): Promise<() => void> {
    return this.desks.watch(id, listener)
  }

  private async tellAll(id: string): Promise<VisitView> {
    const opened = await this.open(id)
    await this.desks.refresh(opened)
    return visitView(this.db, opened, this.clock.now())
  }

  /** The view, when this very action was recorded before: it was sent twice. */
  private async alreadyDone(id: string, actor: Actor): Promise<VisitView | null> {
    if (!actor.actionId || !(await this.isKnown(this.db, id, actor.actionId))) return null
    return this.view(id)
  }

  private async isKnown(db: Database | Transaction, id: string, actionId: string): Promise<boolean> {
    const [known] = await db
      .select({ id: visitEntries.id })
      .from(visitEntries)
      .where(and(eq(visitEntries.visitId, id), eq(visitEntries.actionId, actionId)))
    return known !== undefined
  }

  /** Writes one line of the record, and all that follows from it, in one transaction. */
  private async record(id: string, actor: Actor, step: string | null, entry: VisitEntry): Promise<VisitView> {
    const opened = await this.open(id)
    // Asked before the transaction: it reads the whole site.
    const proposed =
      opened.procedure.id === 'retire'
        ? await proposedCauses(this.db, opened.installed.installation.id, this.clock.now())
        : []
    await this.db.transaction(async (tx) => {
      // The lock keeps two actions at the same moment from both finding the step still open.
      const [row] = await tx
        .execute<{ holder_client: string | null; holder_name: string | null; closed_at: Date | null }>(
          sql`select holder_client, holder_name, closed_at from visits where id = ${id} for update`,
        )
        .then((r) => r.rows)
      if (actor.actionId && (await this.isKnown(tx, id, actor.actionId))) return
      if (row?.closed_at) throw closed()
      if (row?.holder_client && row.holder_client !== actor.clientId) {
        throw new Problem(409, 'held', `${row.holder_name} has this sensor in hand.`, { hint: 'Take it over first.' })
      }
      const before = foldLines(opened, await visitLines(tx, id))
      if (step !== null && before.current?.key !== step) throw staleStep()
      if (entry.type === 'redo' && !before.steps.some((s) => s.step.key === entry.step)) throw staleStep()
      const at = await this.append(tx, id, actor, entry)
      await this.follow(tx, opened, { operator: actor.operator, proposed }, entry, at)
    })
    return this.tellAll(id)
  }

  /** What a line of the record entails beyond itself. */
  private async follow(
    tx: Transaction,
    opened: OpenedVisit,
    { operator, proposed }: { operator: string; proposed: Proposed },
    entry: VisitEntry,
    at: Date,
  ): Promise<void> {
    const { row } = opened
    const progress = foldLines(opened, await visitLines(tx, row.id))
    if (entry.type === 'captured') await drawFromLot(tx, opened, operator, entry.reading, at)
    await this.keepCalibration(tx, opened, progress, entry, at)
    const finished = progress.current === null && entry.type !== 'abandoned'
    if (finished) await this.observe(tx, opened, progress, at)
    if (finished && opened.procedure.id === 'retire')
      await this.retire(tx, opened, progress, { at, operator, proposed })
    // A form that may wait for days leaves the sensor to whoever comes next.
    if (progress.current?.pending && !finished) {
      await tx
        .update(visits)
        .set({ holderClient: null, holderName: null, heldSince: null })
        .where(eq(visits.id, row.id))
    }
    if (finished || entry.type === 'abandoned') {
      await tx
        .update(visits)
        .set({
          closedAt: at,
          outcome: finished ? 'done' : 'abandoned',
          holderClient: null,
          holderName: null,
          heldSince: null,
        })
        .where(eq(visits.id, row.id))
    }
  }

  /** What the sensor was found to be, once it was applied or decided to be left as it is. */
  private async keepCalibration(
    tx: Transaction,
    opened: OpenedVisit,
    progress: Progress,
    entry: VisitEntry,
    at: Date,
  ): Promise<void> {
    const left = entry.type === 'decided' && ['leave-alone', 'replace'].includes(entry.decision)
    if (entry.type !== 'applied' && !left) return
    const found = nullIfOutOfRange(() => opened.procedure.judge(progress.evidence, left ? entry.step : 'result'))?.found
    if (!found) return
    await tx.insert(calibrations).values({
      installationId: opened.installed.installation.id,
      visitId: opened.row.id,
      at,
      characteristic: entry.type === 'applied' ? entry.characteristic : found.characteristic,
      uncertainty: found.uncertainty,
      adopted: entry.type === 'applied',
      baseline: opened.procedure.baseline ?? false,
    })
  }

  /** The error as found and as left, from which drift is computed. Nothing when the visit measured neither. */
  private async observe(tx: Transaction, opened: OpenedVisit, progress: Progress, at: Date): Promise<void> {
    const observation = nullIfOutOfRange(() => opened.procedure.observe(progress.evidence))
    if (!observation) return
    await tx.insert(driftObservations).values({
      installationId: opened.installed.installation.id,
      visitId: opened.row.id,
      at,
      ...observation,
    })
  }

  private async retire(
    tx: Transaction,
    opened: OpenedVisit,
    progress: Progress,
    { at, operator, proposed }: { at: Date; operator: string; proposed: Proposed },
  ): Promise<void> {
    const { installation } = opened.installed
    const { cause, note } = progress.evidence.forms.cause?.values ?? {}
    await tx.insert(events).values({
      installationId: installation.id,
      at,
      kind: 'retired',
      note: [cause, note].filter(Boolean).join(': '),
    })
    await noteRetirement(tx, { installationId: installation.id, at, operator, cause, proposed })
    await tx.update(installations).set({ removedAt: at }).where(eq(installations.id, installation.id))
  }

  private async append(tx: Transaction, visitId: string, actor: Actor, entry: VisitEntry): Promise<Date> {
    const [last] = await tx
      .select({ seq: visitEntries.seq })
      .from(visitEntries)
      .where(eq(visitEntries.visitId, visitId))
      .orderBy(desc(visitEntries.seq))
      .limit(1)
    const now = this.clock.now()
    const { madeAt, actionId, operator } = actor
    const at = new Date(madeAt !== undefined && madeAt < now && now - madeAt < BELIEVED_FOR ? madeAt : now)
    await tx
      .insert(visitEntries)
      .values({ visitId, seq: (last?.seq ?? 0) + 1, at, operator, entry, actionId: actionId ?? null })
    return at
  }
}

const staleStep = () =>
  new Problem(409, 'stale-step', 'The visit has moved on meanwhile.', { hint: 'Look at the step that is open now.' })

const closed = () => new Problem(409, 'closed', 'This visit is closed; its record stands.')
