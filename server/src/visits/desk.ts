import { randomUUID } from 'node:crypto'
import type { StartVisitBody, VisitEntry, VisitLive, VisitView } from '@frustum/contract'
import { type Decision, type PhCharacteristic, type PhStepKey, readTypedNumber } from '@frustum/core'
import { and, desc, eq, isNull, sql } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { calibrations, driftObservations, visitEntries, visits } from '../database/schema.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { Problem } from '../problem.ts'
import { installedAt } from '../sensors.ts'
import { foldVisit, type VisitProgress } from './fold.ts'
import type { LiveDesks } from './liveDesks.ts'
import { type OpenedVisit, openVisit, type VisitRow, visitLines } from './records.ts'
import { resultOf, verdictOf } from './result.ts'
import { asLeft, visitView } from './view.ts'

interface Asker {
  clientId: string
  operator: string
}

/** Runs visits: every action is on disk before it is answered. */
export class VisitDesk {
  constructor(
    private readonly db: Database,
    private readonly live: LiveValues,
    private readonly desks: LiveDesks,
  ) {}

  async start(body: StartVisitBody): Promise<VisitView> {
    const installed = await installedAt(this.db, body.position)
    const id = await this.db.transaction(async (tx) => {
      const [open] = await tx
        .select()
        .from(visits)
        .where(and(eq(visits.installationId, installed.installation.id), isNull(visits.closedAt)))
      if (open) return open.id
      const now = new Date()
      const [row] = await tx
        .insert(visits)
        .values({
          id: randomUUID(),
          installationId: installed.installation.id,
          kind: body.kind,
          firstStandard: body.first,
          secondStandard: body.second,
          operator: body.operator,
          startedAt: now,
          holderClient: body.clientId,
          holderName: body.operator,
          heldSince: now,
        })
        .returning()
      return (row as VisitRow).id
    })
    return this.view(id)
  }

  async view(id: string): Promise<VisitView> {
    return visitView(this.db, await openVisit(this.db, id))
  }

  async done(id: string, asker: Asker, step: PhStepKey): Promise<VisitView> {
    return this.record(id, asker, step, { type: 'done', step })
  }

  async skip(id: string, asker: Asker, step: PhStepKey, reason: string): Promise<VisitView> {
    if (['result', 'verdict', 'release'].includes(step)) {
      throw new Problem(409, 'not-skippable', 'This step cannot be skipped.', { hint: 'Decide, or end the visit.' })
    }
    return this.record(id, asker, step, { type: 'skipped', step, reason })
  }

  async redo(id: string, asker: Asker, step: PhStepKey, reason: string): Promise<VisitView> {
    return this.record(id, asker, null, { type: 'redo', step, reason })
  }

  async goOn(id: string, asker: Asker): Promise<VisitView> {
    return this.record(id, asker, 'verdict', { type: 'went-on' })
  }

  async abandon(id: string, asker: Asker, reason: string): Promise<VisitView> {
    return this.record(id, asker, null, { type: 'abandoned', reason })
  }

  async capture(id: string, asker: Asker, step: PhStepKey, earlyReason?: string): Promise<VisitView> {
    const desk = await this.desks.desk(id)
    if (desk.session.setting.step !== step) throw staleStep()
    const reading = desk.session.capture(earlyReason)
    return this.record(id, asker, step, { type: 'captured', step, reading })
  }

  async typed(id: string, asker: Asker, step: PhStepKey, value: string, temperature: string): Promise<VisitView> {
    const [v, t] = [readTypedNumber(value), readTypedNumber(temperature)]
    if (!v.ok || !t.ok) throw new Problem(400, 'invalid', 'Type the reading as a number.')
    return this.record(id, asker, step, { type: 'typed', step, value: v.value, temperature: t.value })
  }

  async shows(id: string): Promise<'millivolt' | 'value'> {
    const { installed } = await openVisit(this.db, id)
    return installed.device.shows
  }

  async decide(id: string, asker: Asker, decision: Decision, note: string | undefined): Promise<VisitView> {
    const view = await this.view(id)
    const step = view.current
    const proposal = step === 'result' ? view.result?.proposal : step === 'verdict' ? view.verdict?.proposal : undefined
    if (!proposal || (step !== 'result' && step !== 'verdict')) throw staleStep()
    if (decision !== proposal.decision && (note ?? '').length < 3) {
      throw new Problem(400, 'note-needed', 'You decide otherwise than proposed.', {
        hint: 'Add a note that says why.',
        fields: { note: 'Say why in a few words.' },
      })
    }
    if (decision === 'adjust' && step === 'result' && view.result?.findings.some((f) => f.severity === 'stop')) {
      throw new Problem(409, 'no-result', 'These points give no characteristic that a device could use.', {
        hint: 'Take the points again.',
      })
    }
    const entry: VisitEntry = { type: 'decided', step, decision, proposed: proposal.decision, note: note || null }
    return this.record(id, asker, step, entry)
  }

  async apply(id: string, asker: Asker, way: 'link' | 'keyed', shownAfter: string | undefined): Promise<VisitView> {
    const view = await this.view(id)
    const calibration = view.result?.calibration
    if (view.current !== 'apply' || !calibration) throw staleStep()
    const wanted = { slopeEfficiency: round(calibration.slopeEfficiency, 4), zero: round(calibration.zero, 1) }
    if (way === 'link') {
      const link = this.live.link(view.position)
      if (!link || !view.writable) {
        throw new Problem(409, 'not-writable', 'This device cannot be written over its link.', {
          hint: 'Key the two numbers in on the device.',
        })
      }
      await this.writeOver(link, wanted)
    }
    const typed = shownAfter === undefined ? null : readTypedNumber(shownAfter)
    return this.record(id, asker, 'apply', {
      type: 'applied',
      way,
      ...wanted,
      shownAfter: typed?.ok ? typed.value : null,
    })
  }

  async takeOver(id: string, asker: Asker): Promise<VisitView> {
    const { row } = await openVisit(this.db, id)
    await this.db.transaction(async (tx) => {
      await this.append(tx, id, asker.operator, { type: 'taken-over', from: row.holderName ?? 'nobody' })
      await tx
        .update(visits)
        .set({ holderClient: asker.clientId, holderName: asker.operator, heldSince: new Date() })
        .where(eq(visits.id, id))
    })
    await this.desks.refresh(id)
    return this.view(id)
  }

  /** See LiveDesks.watch. */
  watch(id: string, listener: (message: VisitLive) => void): Promise<() => void> {
    return this.desks.watch(id, listener)
  }

  private async writeOver(link: NonNullable<ReturnType<LiveValues['link']>>, wanted: PhCharacteristic): Promise<void> {
    let held: PhCharacteristic
    try {
      held = await link.writeCalibration(wanted)
    } catch {
      throw new Problem(502, 'device-silent', 'The device did not take the numbers.', {
        detail: 'The points and the result are kept; nothing is lost.',
        hint: 'Check the line and apply again, or key the numbers in by hand.',
      })
    }
    if (Math.abs(held.zero - wanted.zero) > 0.05 || Math.abs(held.slopeEfficiency - wanted.slopeEfficiency) > 5e-4) {
      throw new Problem(502, 'device-differs', 'The device holds other numbers than were sent.', {
        detail: `It says slope ${(100 * held.slopeEfficiency).toFixed(1)} %, zero ${held.zero.toFixed(1)} mV.`,
        hint: 'Apply again, or key the numbers in by hand.',
      })
    }
  }

  /** Writes one line of the record, and all that follows from it, in one transaction. */
  private async record(id: string, asker: Asker, step: PhStepKey | null, entry: VisitEntry): Promise<VisitView> {
    const opened = await openVisit(this.db, id)
    await this.db.transaction(async (tx) => {
      // The lock keeps two actions at the same moment from both finding the step still open.
      const [row] = await tx
        .execute<{ holder_client: string | null; holder_name: string | null; closed_at: Date | null }>(
          sql`select holder_client, holder_name, closed_at from visits where id = ${id} for update`,
        )
        .then((r) => r.rows)
      if (row?.closed_at) throw new Problem(409, 'closed', 'This visit is closed; its record stands.')
      if (row?.holder_client && row.holder_client !== asker.clientId) {
        throw new Problem(409, 'held', `${row.holder_name} has this sensor in hand.`, { hint: 'Take it over first.' })
      }
      const before = foldVisit(opened.row.kind, await visitLines(tx, id))
      if (step !== null && before.current !== step) throw staleStep()
      const at = new Date()
      await this.append(tx, id, asker.operator, entry)
      await this.follow(tx, opened, entry, at)
    })
    await this.desks.refresh(id)
    return this.view(id)
  }

  /** What a line of the record entails beyond itself. */
  private async follow(tx: Transaction, opened: OpenedVisit, entry: VisitEntry, at: Date): Promise<void> {
    const { row, installed, inForce, previous } = opened
    const installationId = installed.installation.id
    const progress = foldVisit(row.kind, await visitLines(tx, row.id))
    const result = resultOf(progress, installed, inForce, previous)
    const found = result?.calibration
    const decidedNotToAdjust = entry.type === 'decided' && entry.step === 'result' && entry.decision !== 'adjust'
    if (found && result.errorNow !== null && (entry.type === 'applied' || decidedNotToAdjust)) {
      const applied = entry.type === 'applied' ? { zero: entry.zero, slopeEfficiency: entry.slopeEfficiency } : null
      await tx.insert(calibrations).values({
        installationId,
        visitId: row.id,
        at,
        zero: applied?.zero ?? found.zero,
        slopeEfficiency: applied?.slopeEfficiency ?? found.slopeEfficiency,
        zeroUncertainty: found.zeroUncertainty,
        slopeEfficiencyUncertainty: found.slopeEfficiencyUncertainty,
        adopted: applied !== null,
      })
    }
    const finished = progress.current === null && entry.type !== 'abandoned'
    if (finished) await this.observe(tx, opened, progress, at)
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

  /** The error as found and as left, from which drift is reckoned. Nothing when the visit measured neither. */
  private async observe(tx: Transaction, opened: OpenedVisit, progress: VisitProgress, at: Date): Promise<void> {
    const { row, installed } = opened
    const before = opened.inForce
    const result = resultOf(progress, installed, before, opened.previous)
    const verdict = verdictOf(progress, installed.position.tolerance, before)
    const checkError = verdict ? verdict.shown - verdict.right : null
    const asFound = result?.asFoundError ?? result?.errorNow ?? checkError
    const left = asLeft(progress, result) ?? checkError
    if (left === null) return
    await tx.insert(driftObservations).values({
      installationId: installed.installation.id,
      visitId: row.id,
      at,
      asFound,
      asLeft: left,
      uncertainty: result?.uncertainty ?? verdict?.uncertainty ?? 0.05,
      fouling: result?.fouling ?? null,
      adjusted: progress.applied !== null,
    })
  }

  private async append(tx: Transaction, visitId: string, operator: string, entry: VisitEntry): Promise<void> {
    const [last] = await tx
      .select({ seq: visitEntries.seq })
      .from(visitEntries)
      .where(eq(visitEntries.visitId, visitId))
      .orderBy(desc(visitEntries.seq))
      .limit(1)
    await tx.insert(visitEntries).values({ visitId, seq: (last?.seq ?? 0) + 1, at: new Date(), operator, entry })
  }
}

const staleStep = () =>
  new Problem(409, 'stale-step', 'The visit has moved on meanwhile.', { hint: 'Look at the step that is open now.' })

const round = (value: number, decimals: number) => Math.round(value * 10 ** decimals) / 10 ** decimals
