import type { FieldSpec } from '@frustum/core'
import type { VisitLive, VisitView } from './views/bench.ts'

/** What the Bench tells a part that is added to it. */
export interface BenchContext {
  visit: VisitView
  live: VisitLive | null
  /** Tells the operator that something did not work. */
  complain(message: string): void
}

/** A part added to the Bench, in an element of its own. */
export interface BenchPart {
  update(context: BenchContext): void
  unmount(): void
  /** Runs before the reading of a field is taken from the line. */
  beforeReading?(field: FieldSpec): Promise<void>
}

/** The default export of an extension's module; `Host` is the page's type of an element. */
export interface WebExtension<Host> {
  mountBench?(host: Host, context: BenchContext): BenchPart
}
