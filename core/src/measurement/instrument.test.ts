import { expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { DAY_MS } from '../drift/observation.ts'
import { findStaleInstrument, type Instrument } from './instrument.ts'

const NOW = Date.UTC(2026, 5, 1)
const meter = (days: number | null): Instrument => ({
  kind: 'hand-meter',
  name: 'Pocket meter 3',
  serial: '1234',
  calibratedAt: days === null ? null : NOW - days * DAY_MS,
  uncertainty: 0.02,
  unit: 'pH',
})

it('a stale instrument is warned about, one that nobody dated is noted, a fresh one is not mentioned', () => {
  expect(findStaleInstrument(meter(30), NOW)).toBeNull()
  const stale = findStaleInstrument(meter(214), NOW)
  expect([stale?.severity, plain(stale?.sentence)]).toEqual(['warn', 'Pocket meter 3 was calibrated 214 days ago.'])
  expect(findStaleInstrument(meter(null), NOW)?.severity).toBe('note')
  expect(findStaleInstrument({ ...meter(214), kind: 'thermometer' }, NOW)).toBeNull()
})
