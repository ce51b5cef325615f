import type { RoundsRow } from '@frustum/contract'
import { expect, it } from 'vitest'
import { withDisagreement } from './disagreement.ts'

const row = (position: string, outside: number, state: RoundsRow['state'] = 'holding') =>
  ({ position, state, differs: null, figure: { outside } }) as RoundsRow
const pair = { positions: ['A', 'B'] as [string, string], difference: -0.3, canTell: 0.07, unit: 'pH', decimals: 2 }
const judged = (...rows: RoundsRow[]) => {
  const found = withDisagreement(rows, [pair])
  return { off: found.disagreeing[0]?.off, states: found.rows.map((r) => [r.state, r.differs?.from ?? null]) }
}

it('two that differ while both are held to be in tolerance are both suspect, until one of them explains it', () => {
  expect(judged(row('A', 0.01), row('B', 0.004), row('C', 0.01))).toEqual({
    off: [],
    states: [
      ['suspect', 'B'],
      ['suspect', 'A'],
      ['holding', null],
    ],
  })
  expect(judged(row('A', 0.99, 'out'), row('B', 0.01))).toEqual({
    off: ['A'],
    states: [
      ['out', null],
      ['holding', null],
    ],
  })
})

it('both that are likely out are both named, and a graver state stays', () => {
  expect(judged(row('A', 0.99, 'out'), row('B', 0.99, 'out')).off).toEqual(['A', 'B'])
  expect(judged(row('A', 0.2, 'overdue'), row('B', 0.1, 'blind')).states).toEqual([
    ['overdue', 'B'],
    ['blind', 'A'],
  ])
})
