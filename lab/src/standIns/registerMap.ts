/**
 * Modbus register map of a transmitter; docs/formats.md explains it. Numbers are 32-bit floats, high word first. The
 * parameters of the calibration stand in the order of their kind's measurement model.
 */
export const REGISTERS = {
  input: { signal: 0, temperature: 2, shown: 4, refresh: 6, glass: 7, junction: 9, length: 11 },
  holding: { parameters: [0, 2, 6, 8, 10, 12], outputsHeld: 4, length: 14 },
} as const
