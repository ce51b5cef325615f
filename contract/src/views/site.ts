import type { OwnStandard, ReaderChoices, Sentence, WorkingPractices } from '@frustum/core'

/** How long readings, and what their hours come to, are kept, days; null: for ever. */
export interface Keeping {
  readingsDays: number | null
  hoursDays: number | null
}

export interface SiteView {
  /** Whether there is one: an empty folder has none yet. */
  exists: boolean
  name: string
  timeZone: string
  operators: string[]
  /** How each of them reads numbers and dates, by name. */
  readers: Record<string, { id: number; choices: ReaderChoices }>
  /** Parts that are not the product's own: a module each, to be loaded by the page. */
  extensions: { name: string; module: string }[]
  /** The server's clock, which the pages follow. */
  clock: { now: number; rate: number }
  practices: WorkingPractices
  /** Those that were put away among them: records speak of these too. */
  ownStandards: OwnStandard[]
  keeping: Keeping
  /** Of the ways of working, newest first. */
  changes: ChangeView[]
}

export interface LiveValue {
  position: string
  /** Epoch ms of the reading; null when there never was one. */
  at: number | null
  /** As the device displays it. */
  shown: number | null
  signal: number | null
  temperature: number | null
  /** Set when the device has not answered, epoch ms. */
  blindSince: number | null
  /** Why, in a sentence. */
  why: string | null
}

export interface ProblemView {
  code: string
  message: string
  detail?: string
  hint?: string
  fields?: Record<string, string>
}

/** Something that was changed, by whom and why. */
export interface ChangeView {
  id: number
  at: number
  operator: string
  what: Sentence
  why: string | null
  /** Whether it can be taken back: it holds still. */
  undo: boolean
}
