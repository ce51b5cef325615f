import { expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { afterClock } from './closedRecord.ts'

const MINUTE = 60_000

it.each([
  ['the same moment', 0, 'Rinsed'],
  ['a little, as a tablet whose clock is off', MINUTE / 2, 'Rinsed'],
  ['half an hour', 30 * MINUTE, 'Rinsed (before it the clock was set back by 30 min)'],
  ['a day', 1440 * MINUTE, 'Rinsed (before it the clock was set back by 24 h)'],
  ['a year', 365 * 1440 * MINUTE, 'Rinsed (before it the clock was set back by 365 days)'],
])('a line that is earlier than the one before by %s', (_, back, said) => {
  expect(plain(afterClock('Rinsed', 1e12, 1e12 + back))).toBe(said)
})

it('the first line has none before it', () => {
  expect(plain(afterClock('Held', 1e12, undefined))).toBe('Held')
})
