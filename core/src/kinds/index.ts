import type { MeasurementModel } from '../measurement/measurementModel.ts'
import { followingDevice } from '../measurement/ownDisplay.ts'
import type { OwnStandard } from '../measurement/ownStandards.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import type { Standard } from '../measurement/standard.ts'
import { pastProcedure } from '../procedures/pastProcedure.ts'
import type { Kind, Procedure, Suited } from '../procedures/procedure.ts'
import { CHLORINE } from './chlorine/index.ts'
import { CONDUCTIVITY } from './conductivity/index.ts'
import { ION } from './ion/index.ts'
import { OPTICAL_NITRATE } from './opticalNitrate/index.ts'
import { ORP } from './orp/index.ts'
import { PH } from './ph/index.ts'
import { TEMPERATURE } from './temperature/index.ts'

/** The table of contents: a new kind is its own folder and one line here. */
const KINDS: Kind[] = [PH, ORP, CONDUCTIVITY, ION, CHLORINE, OPTICAL_NITRATE, TEMPERATURE].map(followingItsDevice)

/** What is noted of a device holds for every kind that it reads. */
function followingItsDevice(kind: Kind): Kind {
  return { ...kind, model: followingDevice(kind.id, kind.model) }
}

/** Adds a kind that is kept elsewhere, such as one of a site's own. Returns what takes it out again. */
export function registerKind(kind: Kind): () => void {
  if (KINDS.some((k) => k.id === kind.id)) throw new RangeError(`There is a kind "${kind.id}" already.`)
  const known = followingItsDevice(kind)
  KINDS.push(known)
  return () => {
    KINDS.splice(KINDS.indexOf(known), 1)
  }
}

export const sensorKinds = (): SensorKind[] => KINDS.map((k) => k.id)

/** @throws RangeError for an unknown kind */
export function kindOf(id: SensorKind): Kind {
  const found = KINDS.find((k) => k.id === id)
  if (!found) throw new RangeError(`There is no kind of sensor "${id}".`)
  return found
}

/**
 * The kind that a list calls so, whatever the case and what follows it; null where none is meant.
 * @example kindCalled('EC (mS/cm)') // 'conductivity'
 */
export function kindCalled(text: string): SensorKind | null {
  const word = text.trim().toLowerCase()
  if (word === '') return null
  const begins = (name: string) =>
    word === name || (word.startsWith(name) && !/[a-z0-9]/.test(word.charAt(name.length)))
  const found = KINDS.find((k) => [k.id, k.name.toLowerCase(), k.short.toLowerCase(), ...k.alsoCalled].some(begins))
  return found?.id ?? null
}

export const modelOf = (id: SensorKind): MeasurementModel => kindOf(id).model

/** All bottled standards known, by kind. */
export const standards = (): Standard[] => KINDS.flatMap((k) => k.standards)

/** The standard with this code. @throws RangeError for an unknown one */
export function standardOf(code: string): Standard {
  const found = standards().find((s) => s.code === code)
  if (!found) throw new RangeError(`There is no standard "${code}".`)
  return found
}

const OWN = new Map<string, OwnStandard>()

/**
 * Takes in standards of a site's own, in place of those with the same code: kinds, forms and records know them then.
 * @throws RangeError for a kind that is calibrated in no standard
 */
export function takeOwnStandards(own: readonly OwnStandard[]): void {
  for (const standard of own) {
    const { ownStandard, standards: bottles, name } = kindOf(standard.kind)
    if (!ownStandard) throw new RangeError(`${name} is calibrated in no standard.`)
    const bottle = { ...ownStandard.take(standard), archived: standard.archived }
    const at = bottles.findIndex((s) => s.code === standard.code)
    if (at < 0) bottles.push(bottle)
    else bottles[at] = bottle
    OWN.set(standard.code, standard)
  }
}

/** Takes in all that a site has; what was known besides is only what records speak of. */
export function knowOwnStandards(own: readonly OwnStandard[]): void {
  const codes = new Set(own.map((s) => s.code))
  const gone = [...OWN.values()].filter((s) => !codes.has(s.code))
  takeOwnStandards([...gone.map((s) => ({ ...s, archived: true })), ...own])
}

/** What a site's own standard of this code is; undefined of one that is known everywhere. */
export const ownStandardOf = (code: string): OwnStandard | undefined => OWN.get(code)

/** The same as a part of what a visit keeps of a standard; nothing of one that is known everywhere. */
export const ownPart = (code: string): { own?: OwnStandard } => {
  const own = OWN.get(code)
  return own ? { own } : {}
}

/** All procedures, each once. */
export const procedures = (): Procedure[] => {
  const byId = new Map(KINDS.flatMap((k) => k.procedures).map((p) => [p.id, p]))
  return [...byId.values()]
}

/** Of these readings of the past have their judgement; what is made of another procedure has that one's. */
const judgesPast = (p: Procedure) => p.past !== undefined && !p.baseline && p.replaces === undefined

/** How a calibration of the past with so many points is judged, and without any; null where none can be. */
export const pastProcedureFor = (kind: SensorKind, points: number | null): Procedure | null => {
  if (points === null) return pastProcedure(null)
  const base = kindOf(kind).procedures.find((p) => judgesPast(p) && p.past?.points === points)
  return base ? pastProcedure(base) : null
}

const find = (id: string): Procedure | undefined => {
  const known = procedures()
  const past = () => [pastProcedure(null), ...known.filter(judgesPast).map(pastProcedure)]
  return known.find((p) => p.id === id) ?? past().find((p) => p.id === id)
}

/** Whether what it names was noted elsewhere, and taken in from a list. */
export const isFromList = (id: string): boolean => find(id)?.id.startsWith(pastProcedure(null).id) ?? false

/** Whether records may name it. */
export const isProcedure = (id: string): boolean => find(id) !== undefined

/** The procedure with this id, those of records that were taken in among them. @throws RangeError for an unknown one */
export function procedureOf(id: string): Procedure {
  const found = find(id)
  if (!found) throw new RangeError(`There is no procedure "${id}".`)
  return found
}

/** What can be done with a sensor of this kind on such a device, in the order in which it is offered. */
export function proceduresFor(setup: Suited): Procedure[] {
  const suitable = kindOf(setup.kind).procedures.filter((p) => p.suits?.(setup) ?? true)
  const replaced = new Set(suitable.map((p) => p.replaces))
  return suitable.filter((p) => !replaced.has(p.id))
}
