import type { BenchContext, BenchPart, WebExtension } from '@frustum/contract'
import { createRoot, type Root } from 'react-dom/client'
import type { StandInBody, StandInView } from '../src/server/contract.ts'
import { standInPath } from '../src/server/paths.ts'
import { StandInStrip } from './StandInStrip.tsx'
import styles from './strip.css?inline'

/** So long may a reading take to arrive after something was plugged in, ms. */
const ARRIVES_WITHIN_MS = 5000

/** The strip of one visit: asks the server what this stand-in can be put into, and plays with it. */
class StandInPart implements BenchPart {
  private readonly root: Root
  private view: StandInView | null = null
  private onUpdate: (() => void)[] = []

  constructor(
    host: HTMLElement,
    private context: BenchContext,
  ) {
    this.root = createRoot(host)
    void this.load()
  }

  update(context: BenchContext): void {
    this.context = context
    this.draw()
    for (const tell of this.onUpdate.splice(0)) tell()
  }

  unmount(): void {
    // Not while the page itself is being drawn.
    queueMicrotask(() => this.root.unmount())
  }

  /** A simulator is set to the field's input, and the device has read it, before the value is taken. */
  beforeReading: BenchPart['beforeReading'] = async ({ appliedInput }) => {
    if (!this.view || !appliedInput) return
    await this.play({ simulate: appliedInput })
    const from = this.context.live?.at ?? 0
    const until = performance.now() + ARRIVES_WITHIN_MS
    // Two later readings: the next one may have been asked for before the simulator was set.
    for (let later = 0, last = from; later < 2 && performance.now() < until; ) {
      await new Promise<void>((resolve) => this.onUpdate.push(resolve))
      const at = this.context.live?.at ?? 0
      if (at > last) {
        later++
        last = at
      }
    }
  }

  private async load(): Promise<void> {
    const { visit } = this.context
    const response = await fetch(`${standInPath(visit.position)}?visit=${visit.id}`)
    // A real sensor, or one read by eye, has no strip.
    if (!response.ok) return
    this.view = (await response.json()) as StandInView
    this.draw()
  }

  private play = async (body: Partial<StandInBody>): Promise<void> => {
    const response = await fetch(standInPath(this.context.visit.position), {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    }).catch(() => null)
    const answer = response ? ((await response.json()) as StandInView['state'] & { message?: string }) : null
    if (!response?.ok || !answer) {
      this.context.complain(answer?.message ?? 'The server cannot be reached.')
      return
    }
    if (this.view) this.view = { ...this.view, state: answer }
    this.draw()
  }

  private draw(): void {
    if (this.view) this.root.render(<StandInStrip context={this.context} view={this.view} play={this.play} />)
  }
}

function addStyles(): void {
  if (document.querySelector('style[data-standin]')) return
  const element = document.createElement('style')
  element.dataset.standin = ''
  element.textContent = styles
  document.head.append(element)
}

const extension: WebExtension<HTMLElement> = {
  mountBench: (host, context) => {
    addStyles()
    return new StandInPart(host, context)
  },
}

export default extension
