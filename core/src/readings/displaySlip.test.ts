import fc from 'fast-check'
import { expect, it } from 'vitest'
import { findDisplaySlip } from './displaySlip.ts'

const PH = { usual: 8.2, width: 0.4, decimals: 2 }

it.each([
  ['8.15', null],
  ['8,15', null],
  ['815', { kind: 'decimal-mark', meant: 8.15 }],
  ['81.5', { kind: 'decimal-mark', meant: 8.15 }],
  ['0.812', { kind: 'decimal-mark', meant: 8.12 }],
  ['1.85', { kind: 'digits', meant: 8.15 }],
  ['5.2', { kind: 'far', usual: 8.2 }],
  ['', null],
  ['8.1x', null],
])('%s on a pH display that usually shows 8.20', (typed, slip) => {
  expect(findDisplaySlip(typed, PH)).toEqual(slip)
})

it('says nothing of what is near, and what it proposes is near', () => {
  fc.assert(
    fc.property(
      fc.double({ min: -100, max: 2000, noNaN: true }),
      fc.double({ min: 0.5, max: 100, noNaN: true }),
      (value, width) => {
        const typed = value.toFixed(2)
        const slip = findDisplaySlip(typed, { usual: 700, width, decimals: 2 })
        if (Math.abs(Number(typed) - 700) <= width) expect(slip).toBeNull()
        else if (slip && slip.kind !== 'far') expect(Math.abs(slip.meant - 700)).toBeLessThanOrEqual(width + 0.005)
        else expect(slip).toEqual({ kind: 'far', usual: 700 })
      },
    ),
  )
})
