import { readTypedNumber, typedNumberProblem } from '@frustum/core'

/** A number as a display shows it. */
export interface Displayed {
  value: number
  /** What one step of its last digit is worth. */
  step: number
  /** As it was typed with it, if at all: °C, °F, mV. */
  unit: string
}

const UNITS: Readonly<Record<string, string>> = { c: '°C', '°c': '°C', f: '°F', '°f': '°F', k: 'K', mv: 'mV', v: 'V' }

/** Reads a number as a display shows it, with its unit: "7.29", "-182,4", "24.6 °C"; or what is wrong with it. */
export function readDisplayed(text: string): Displayed | { problem: string } {
  const [, number = '', unit = ''] = /^\s*([+\-−]?[\d.,]{1,18})\s*([^\d\s.,]{1,6})?\s*$/.exec(text) ?? []
  const read = readTypedNumber(number)
  if (!read.ok)
    return {
      problem:
        read.problem === 'two-ways'
          ? typedNumberProblem(number, read.problem)
          : 'Enter the number as the display shows it, with its unit if you like: 24.6 °C.',
    }
  const decimals = /[.,](\d*)$/.exec(number)?.[1]?.length ?? 0
  return { value: read.value, step: 10 ** -decimals, unit: UNITS[unit.toLowerCase()] ?? unit }
}

export const decimalsOf = ({ step }: Displayed): number => Math.max(0, Math.round(-Math.log10(step)))
