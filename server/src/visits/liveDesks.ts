import type { Clock, VisitLive, VisitSettings } from '@frustum/contract'
import { type StepSession, sessionKey, stepSessionAt } from '@frustum/core'
import type { Database } from '../database/open.ts'
import type { LiveValues } from '../devices/liveValues.ts'
import { type OpenedVisit, openVisit } from '../records/openVisit.ts'
import { standardsFrom } from '../records/setup.ts'
import { pastSettling } from '../sensors.ts'

/** The live side of one open visit, shared by all browsers that look at it. */
interface Desk {
  session: StepSession
  position: string
  /** The standards that were chosen for it, by role. */
  chosen: VisitSettings['standards']
  stepKey: string
  /** How many lines the record has that it shows. */
  revision: number
  audience: Set<(message: VisitLive) => void>
  stopListening: () => void
  /** When the audience was told last, ms of the process. */
  toldAt: number
  telling: NodeJS.Timeout | null
}

/** Least time between two messages of one desk, ms. */
const TELL_EVERY_MS = 250

/** The live side of all open visits: traces, judges, and who watches. Lost with the process, and rebuilt from the record. */
export class LiveDesks {
  private readonly desks = new Map<string, Desk>()
  private readonly opening = new Map<string, Promise<Desk>>()

  constructor(
    private readonly db: Database,
    private readonly live: LiveValues,
    private readonly clock: Clock,
  ) {}

  /** Sends the visit's live side to a listener until the returned function is called. */
  async watch(id: string, listener: (message: VisitLive) => void): Promise<() => void> {
    const desk = await this.desk(id)
    if (desk.audience.size === 0 && desk.session.gaveUp) desk.session.restart(this.clock.now())
    desk.audience.add(listener)
    listener(this.message(desk, true))
    return () => {
      desk.audience.delete(listener)
    }
  }

  desk(id: string): Promise<Desk> {
    const known = this.desks.get(id)
    if (known) return Promise.resolve(known)
    // Two browsers may ask at the same moment; both must get the same one.
    let opening = this.opening.get(id)
    if (!opening) {
      opening = this.openDesk(id).finally(() => this.opening.delete(id))
      this.opening.set(id, opening)
    }
    return opening
  }

  private async openDesk(id: string): Promise<Desk> {
    const opened = await openVisit(this.db, id)
    const desk: Desk = {
      session: await this.session(opened),
      position: opened.installed.position.code,
      chosen: opened.row.settings.standards,
      stepKey: sessionKey(opened.progress),
      revision: opened.revision,
      audience: new Set(),
      stopListening: () => undefined,
      toldAt: 0,
      telling: null,
    }
    // Nothing more happens in a closed visit: its state is sent once, and no desk is kept.
    if (opened.row.closedAt) return desk
    desk.stopListening = this.live.listen(desk.position, (reading, another) => {
      // What the line before has shown is no part of how it settles on this one.
      if (another) desk.session.changeLine(this.clock.now())
      if (reading) desk.session.take(reading, this.clock.now())
      if (desk.audience.size > 0) this.tellSoon(desk)
    })
    this.desks.set(id, desk)
    return desk
  }

  /** After a write: a new step gets a new session, and everybody is told. */
  async refresh(opened: OpenedVisit): Promise<void> {
    const { id } = opened.row
    const desk = await this.desk(id)
    const key = sessionKey(opened.progress)
    desk.revision = opened.revision
    if (key !== desk.stepKey) {
      desk.stepKey = key
      desk.session = await this.session(opened)
    }
    this.tell(desk, true)
    if (opened.row.closedAt) {
      desk.stopListening()
      if (desk.telling) clearTimeout(desk.telling)
      this.desks.delete(id)
    }
  }

  /** A bottle was opened, added or thrown away: from now on it is poured from those that there are. */
  async lotsChanged(): Promise<void> {
    for (const desk of this.desks.values()) {
      desk.session.pour(await standardsFrom(this.db, desk.chosen, this.clock.now()))
      this.tell(desk, true)
    }
  }

  /** Tells the next reading, at most every so often: a page cannot be drawn more often than it is looked at. */
  private tellSoon(desk: Desk): void {
    desk.telling ??= setTimeout(
      () => {
        desk.telling = null
        desk.toldAt = performance.now()
        this.tell(desk, false)
      },
      Math.max(0, desk.toldAt + TELL_EVERY_MS - performance.now()),
    )
  }

  private tell(desk: Desk, whole: boolean): void {
    const message = this.message(desk, whole)
    for (const listener of desk.audience) listener(message)
  }

  private message(desk: Desk, whole: boolean): VisitLive {
    const { blindSince } = this.live.current(desk.position)
    return desk.session.message({ now: this.clock.now(), blindSince, revision: desk.revision, wholeTrace: whole })
  }

  private async session({ row, installed, procedure, progress }: OpenedVisit): Promise<StepSession> {
    const past = await pastSettling(this.db, installed.installation.id, row.startedAt)
    // A bottle may have been changed since the visit began: what is poured now is what is recorded.
    const standards = await standardsFrom(this.db, row.settings.standards, this.clock.now())
    return stepSessionAt({
      procedure,
      progress,
      standards,
      past: past.signatures,
      isClosed: row.closedAt !== null,
      now: this.clock.now(),
      rate: this.clock.rate,
    })
  }
}
