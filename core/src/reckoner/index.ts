import { CONDUCTIVITY_SHEETS } from './conductivitySheets.ts'
import { ION_SHEETS } from './ionSheets.ts'
import { ORP_SHEETS } from './orpSheets.ts'
import { PH_SHEETS } from './phSheets.ts'
import type { Sheet } from './sheet.ts'
import { SOLUTION_SHEETS } from './solutionSheets.ts'
import { TEMPERATURE_SHEETS } from './temperatureSheets.ts'

export { convertUnit, type QuantityText, readQuantity, type UnitSymbol } from '../quantities/quantityText.ts'
export {
  type Curve,
  computeSheet,
  Given,
  type GivenChoice,
  type GivenField,
  type GivenNumber,
  type LinkedField,
  type NumberField,
  type Output,
  type Sheet,
  type SheetResult,
  show,
} from './sheet.ts'

/** Everything that can be worked out, by groups in the order in which they are listed. */
export const SHEETS: readonly Sheet[] = [
  ...PH_SHEETS,
  ...CONDUCTIVITY_SHEETS,
  ...ORP_SHEETS,
  ...ION_SHEETS,
  ...SOLUTION_SHEETS,
  ...TEMPERATURE_SHEETS,
]
