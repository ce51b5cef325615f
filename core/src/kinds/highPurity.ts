import type { Water } from '../measurement/waters.ts'
import type { VisitState } from '../procedures/procedure.ts'
import type { Step } from '../procedures/step.ts'

/** Below this the air and the line spoil water sooner than a cell drifts, uS/cm (common practice, no source). */
const HIGH_PURITY = 10

const PURE_WATERS: readonly (Water | null | undefined)[] = ['boiler', 'pure']

const isPureWater = ({ setup }: VisitState) => PURE_WATERS.includes(setup.waterKind)
const conductsLittle = ({ setup }: VisitState) => setup.device.display === 'MΩ·cm' || setup.processValue < HIGH_PURITY

const lineCheck = (sensor: string, air: string): Step => ({
  key: 'in-place',
  kind: 'confirm',
  short: 'Where it sits',
  title: `High-purity water: look at the line before you doubt the ${sensor}`,
  hint: 'Most wrong readings here come from the line. Put right what is not so, and wait ten minutes.',
  main: 'Confirm line',
  ticks: [
    `Flow past the ${sensor} is within its range, and without bubbles`,
    'The solution ground is connected',
    `No plastic tubing before the ${sensor}: it lets CO2 through`,
    air,
  ],
  usualSkips: ['Checked at the last visit'],
  after: [],
})

/**
 * What makes high-purity water read wrong although the cell is right. Water in balance with the air's carbon dioxide
 * alone conducts about 1 uS/cm (from memory of textbook figures, 0.8 to 1.1).
 */
export const highPurityConductivity = (e: VisitState): Step[] =>
  conductsLittle(e)
    ? [lineCheck(e.kind.words.sensor, 'No air reaches the water: CO2 alone makes it read about 1 µS/cm')]
    : []

/**
 * The same of pH, where the position is said to stand in such water. In balance with the air's carbon dioxide pure water
 * has a pH of about 5.6 (from memory of textbook figures).
 */
export const highPurityPh = (e: VisitState): Step[] =>
  isPureWater(e)
    ? [lineCheck(e.kind.words.sensor, 'No air reaches the water: CO2 alone takes it down to about pH 5.6')]
    : []
