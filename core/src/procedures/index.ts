import {
  CONDUCTIVITY_DRY_ZERO,
  CONDUCTIVITY_ONE_POINT,
  CONDUCTIVITY_TWO_POINT,
} from '../kinds/conductivity/procedures.ts'
import { CONDUCTIVITY_TEST_ONLY } from '../kinds/conductivity/testOnly.ts'
import type { SensorKind } from '../kinds/index.ts'
import { ION_FOUR_POINT, ION_THREE_POINT, ION_TWO_POINT } from '../kinds/ion/procedures.ts'
import { ORP_CHECK, ORP_OFFSET, ORP_TWO_POINT, ORP_ZERO_PLUG } from '../kinds/orp/procedures.ts'
import { PH_CHECK, PH_HEALTH, PH_THREE_POINT, PH_TWO_POINT } from '../kinds/ph/procedures.ts'
import { TEMPERATURE_TWO_THERMOMETERS } from '../kinds/temperature/procedures.ts'
import { COMPARE } from './compare.ts'
import { ELECTRONICS } from './electronics.ts'
import { commissioning, RETIRE } from './lifeCycle.ts'
import type { Procedure } from './procedure.ts'
import { KNOWN_STANDARD, SAMPLE } from './sample.ts'

/** The table of contents: a new procedure is its own file and one line here. */
export const PROCEDURES: readonly Procedure[] = [
  PH_CHECK,
  PH_TWO_POINT,
  PH_THREE_POINT,
  PH_HEALTH,
  CONDUCTIVITY_TEST_ONLY,
  CONDUCTIVITY_ONE_POINT,
  CONDUCTIVITY_DRY_ZERO,
  CONDUCTIVITY_TWO_POINT,
  ORP_CHECK,
  ORP_OFFSET,
  ORP_ZERO_PLUG,
  ORP_TWO_POINT,
  ION_TWO_POINT,
  ION_THREE_POINT,
  ION_FOUR_POINT,
  KNOWN_STANDARD,
  TEMPERATURE_TWO_THERMOMETERS,
  SAMPLE,
  COMPARE,
  ELECTRONICS,
  RETIRE,
  commissioning(PH_TWO_POINT),
  commissioning(CONDUCTIVITY_ONE_POINT),
  commissioning(ORP_OFFSET),
  commissioning(ION_TWO_POINT),
  commissioning(KNOWN_STANDARD),
  commissioning(TEMPERATURE_TWO_THERMOMETERS),
]

const BY_ID = new Map(PROCEDURES.map((p) => [p.id, p]))

/** The procedure with this id. Throws RangeError for an unknown one. */
export function procedureOf(id: string): Procedure {
  const found = BY_ID.get(id)
  if (!found) throw new RangeError(`There is no procedure "${id}".`)
  return found
}

/** What can be done with a sensor of this kind on such a device, in the order in which it is offered. */
export function proceduresFor(
  setup: Parameters<NonNullable<Procedure['suits']>>[0] & { kind: SensorKind },
): Procedure[] {
  return PROCEDURES.filter((p) => p.kinds.includes(setup.kind) && (p.suits?.(setup) ?? true))
}
