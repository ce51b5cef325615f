import { expect, it } from 'vitest'
import { loosened } from './loosened.ts'

const RULES = { tolerance: 0.15, reliability: 0.95, ceilingDays: 60, fixedDays: 30 }

it('a limit is loosened by what lets a sensor stray farther or be left alone for longer, and by nothing else', () => {
  expect(loosened(RULES, RULES)).toEqual([])
  expect(loosened(RULES, { tolerance: 0.1, reliability: 0.99, ceilingDays: 30, fixedDays: 7 })).toEqual([])
  expect(loosened(RULES, { ...RULES, tolerance: 0.3 })).toEqual(['tolerance'])
  expect(loosened(RULES, { tolerance: 0.1, reliability: 0.9, ceilingDays: 90, fixedDays: 31 })).toEqual([
    'reliability',
    'ceilingDays',
    'fixedDays',
  ])
  expect(loosened({ ...RULES, fixedDays: null }, RULES)).toEqual([])
})
