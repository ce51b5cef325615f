import type { VisitState } from '../../procedures/procedure.ts'
import type { Step } from '../../procedures/step.ts'

/** Below this the air and the line spoil water sooner than a cell drifts, uS/cm (common practice, no source). */
const HIGH_PURITY = 10

const isHighPurity = ({ setup }: VisitState) => setup.device.display === 'MΩ·cm' || setup.processValue < HIGH_PURITY

/**
 * What makes high-purity water read wrong although the cell is right. Water in balance with the air's carbon dioxide
 * alone conducts about 1 uS/cm (from memory of textbook figures, 0.8 to 1.1).
 */
export const highPurityChecks = (e: VisitState): Step[] =>
  isHighPurity(e)
    ? [
        {
          key: 'in-place',
          kind: 'confirm',
          short: 'Where it sits',
          title: 'High-purity water: look at the line before you doubt the cell',
          hint: 'Most wrong readings here come from the line. Put right what is not so, and wait ten minutes.',
          main: 'Confirm line',
          ticks: [
            'Flow through the cell is within its range, and without bubbles',
            'The solution ground is connected',
            'No plastic tubing before the cell: it lets CO2 through',
            'No air reaches the water: CO2 alone makes it read about 1 µS/cm',
          ],
          usualSkips: ['Checked at the last visit'],
          after: [],
        },
      ]
    : []
