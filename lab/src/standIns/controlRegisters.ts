import { standards } from '@frustum/core'

/** What a stand-in's sensor can be put into. The number is the value of the immersion register; new ones come last. */
const FIRST_BATHS = ['process', 'rinse', 'air', 'pH4.01', 'pH7.00', 'pH9.21', 'pH10.01', 'plug', 'sample', 'simulator']
export const BATHS: readonly string[] = [
  ...FIRST_BATHS,
  ...standards()
    .map((s) => s.code)
    .filter((code) => !FIRST_BATHS.includes(code)),
]

/** Bits of the fault register. */
export const FAULT_BITS = {
  bubble: 1,
  swapped: 2,
  warm: 4,
  cableNoise: 8,
  dead: 16,
  silent: 32,
  leftOver: 64,
  unitSlip: 128,
  wrongTemperature: 256,
  notDry: 512,
  unsteady: 1024,
  unrinsed: 2048,
  stray: 4096,
  compensation: 8192,
} as const

/** Holding registers by which a stand-in is played with; only stand-ins have them. docs/formats.md explains them. */
export const CONTROL_REGISTERS = {
  immersion: 100,
  faults: 101,
  wipe: 102,
  simulatedSignal: 103,
  simulatedTemperature: 105,
  length: 7,
} as const
