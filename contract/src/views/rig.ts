import type { FieldSpec, NextDate, Scale, SensorKind, SensorState, Sentence, Water } from '@frustum/core'
import type { CalendarDay } from '../calendarDay.ts'
import type { InstrumentView } from './instruments.ts'
import type { ChangeView, LiveValue } from './site.ts'

/** What can be changed, each through the one list of changes. */
export const SUBJECTS = [
  'site',
  'place',
  'position',
  'device',
  'sensor',
  'person',
  'consumable',
  'standard',
  'template',
] as const
export type Subject = (typeof SUBJECTS)[number]

/** One of them, to be looked at and changed. */
export interface ThingView {
  subject: Subject
  id: number
  title: string
  fields: FieldSpec[]
  /** What is said of it beside its fields; null where nothing is. */
  says: Sentence | null
  /** What stands in its fields. */
  values: Record<string, string | boolean>
  changes: ChangeView[]
  archived: boolean
  canArchive: boolean
  /** Why it cannot be deleted; null where it can. */
  keptFor: string | null
}

export interface RigPosition {
  id: number
  code: string
  placeId: number
  spot: string
  kind: SensorKind
  quantity: string
  deviceId: number
  water: Water | null
  sensor: { id: number; serial: string; model: string; since: number } | null
  state: SensorState | null
  /** What of it cannot be computed, if anything. */
  unfit: Sentence | null
  live: LiveValue
  scale: Scale
  archived: boolean
}

/** All that a site has, by place. */
export interface RigView {
  places: { id: number; name: string; archived: boolean }[]
  positions: RigPosition[]
  devices: { id: number; name: string; location: string; linked: boolean; archived: boolean }[]
  /** Sensors that are not in use. */
  spares: {
    id: number
    serial: string
    kind: SensorKind
    model: string
    storage: string
    boughtOn: CalendarDay | null
    /** When it is too old to be put to use, where that is known. */
    goodUntil: CalendarDay | null
    lastAt: string | null
    archived: boolean
  }[]
  people: { id: number; name: string; initials: string; archived: boolean }[]
  consumables: { id: number; name: string; place: string; everyDays: number; archived: boolean }[]
  /** Of the site's own. */
  standards: { id: number; label: string; kind: SensorKind; archived: boolean }[]
  /** What was kept of a position, for others like it. */
  templates: {
    id: number
    name: string
    kind: SensorKind
    water: Water | null
    values: Record<string, string | boolean>
    archived: boolean
  }[]
  instruments: InstrumentView[]
  /** Codes that are given, also those of before. */
  codes: string[]
}

/** What a change would do to the next dates. */
export interface MovesView {
  /** `before` is null where nothing of it can be computed as it stands. */
  moves: { position: string; before: NextDate | null; after: NextDate }[]
  /** Whether the sensors' errors depend on it: what was found before is another matter then. */
  turns: boolean
}
