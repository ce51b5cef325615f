/** What a stand-in's probe can be put into. The number is the value of the immersion register. */
export const BATHS = ['process', 'rinse', 'air', 'pH4.01', 'pH7.00', 'pH9.21', 'pH10.01'] as const
export type Bath = (typeof BATHS)[number]

/** Bits of the fault register. */
export const FAULT_BITS = { bubble: 1, swapped: 2, warm: 4, cableNoise: 8, dead: 16, silent: 32 } as const

/** Modbus register map of a stand-in transmitter; docs/formats.md explains it. Numbers are 32-bit floats, high word first. */
export const REGISTERS = {
  input: { millivolts: 0, temperature: 2, shown: 4, refresh: 6, length: 7 },
  holding: { slopePercent: 0, zero: 2, outputsHeld: 4, length: 5 },
  standIn: { immersion: 100, faults: 101, wipe: 102, length: 3 },
} as const
