import { expect, it } from 'vitest'
import type { Installed } from '../sensors.ts'
import { correctedBins } from './past.ts'

const CELL = { position: { kind: 'conductivity', tolerance: 2 }, device: { setting: {} } } as unknown as Installed
const bins = [0, 10, 20].map((at) => ({ at, mean: 1.5 }) as never)
const error = (errorNow: number) => ({
  visit: null,
  found: errorNow,
  between: { from: 0, to: 30, errorThen: 0, errorNow, steps: [] },
})

it('a cell that was found dead has nothing to correct by, and takes the page of its readings with it no more', () => {
  expect(correctedBins(CELL, [error(-100)], { bins, width: 10 })).toEqual([])
  // At the middle of each bin, of -50 % at the end a sixth, a half, and five sixths.
  const [half] = correctedBins(CELL, [error(-50)], { bins, width: 10 })
  expect(half?.points.map((p) => p.value)).toEqual([1, 3, 5].map((k) => expect.closeTo(1.5 / (1 - k / 12), 12)))
})
