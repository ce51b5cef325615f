import { randomUUID } from 'node:crypto'
import type { Request, Response } from 'express'
import { notFound } from '../problem.ts'

/** An answer that nobody fetched is kept for so long, ms. */
const KEPT_MS = 3_600_000
const LONGEST_WAIT_S = 60

interface Job {
  answer: Promise<unknown>
  isDone: boolean
}

/** Requests that take longer than their senders wait. Lost with the process, as the connection of a sender would be. */
export class Jobs {
  private readonly jobs = new Map<string, Job>()

  /**
   * Answers when the work is done, or, where the sender prefers that (RFC 7240, "respond-async"), after its wait with
   * 202 and the address at which the answer will be.
   */
  async respond(req: Request, res: Response, { status, work }: { status: number; work: () => Promise<unknown> }) {
    const waitMs = asyncWaitMs(req)
    if (waitMs === null) {
      res.status(status).json(await work())
      return
    }
    const job: Job = { answer: work(), isDone: false }
    const settled = job.answer.then(
      () => true,
      () => true,
    )
    void settled.then(() => {
      job.isDone = true
    })
    let timer: NodeJS.Timeout | undefined
    const late = new Promise<false>((resolve) => {
      timer = setTimeout(() => resolve(false), waitMs)
    })
    const isDone = await Promise.race([settled, late])
    clearTimeout(timer)
    if (isDone) {
      res.status(status).json(await job.answer)
      return
    }
    const id = randomUUID()
    this.jobs.set(id, job)
    void settled.then(() => setTimeout(() => this.jobs.delete(id), KEPT_MS).unref())
    res.status(202).location(`/api/jobs/${id}`).json({ job: id })
  }

  /** Answers with the outcome of the work, a failure included; 202 while it is under way. @throws Problem 404 */
  async outcome(id: string, res: Response): Promise<void> {
    const job = this.jobs.get(id)
    if (!job) throw notFound('import')
    if (job.isDone) res.json(await job.answer)
    else res.status(202).location(`/api/jobs/${id}`).json({ job: id })
  }
}

/** How long a sender wants to wait before it is told where the answer will be, ms; null where it waits for the answer. */
function asyncWaitMs(req: Request): number | null {
  const prefer = req.get('prefer') ?? ''
  if (!/(^|,)\s*respond-async\s*(,|$)/i.test(prefer)) return null
  const wait = Number(/(?:^|,)\s*wait\s*=\s*(\d+)/i.exec(prefer)?.[1] ?? 0)
  return 1000 * Math.min(LONGEST_WAIT_S, wait)
}
