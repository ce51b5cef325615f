/** A number as a display shows it. */
export interface Displayed {
  value: number
  /** What one step of its last digit is worth. */
  step: number
  /** As it was typed with it, if at all: °C, °F, mV. */
  unit: string
}

const UNITS: Readonly<Record<string, string>> = { c: '°C', '°c': '°C', f: '°F', '°f': '°F', k: 'K', mv: 'mV', v: 'V' }

/** Reads a number off a display: "7.29", "-182,4", "24.6 °C". Null where it is none. */
export function readDisplayed(text: string): Displayed | null {
  const found = /^\s*([+\-−]?\d{1,9}(?:[.,](\d{1,8}))?)\s*([^\d\s.,]{1,6})?\s*$/.exec(text)
  if (!found) return null
  const value = Number((found[1] as string).replace(',', '.').replace('−', '-'))
  const unit = found[3] ?? ''
  return { value, step: 10 ** -(found[2]?.length ?? 0), unit: UNITS[unit.toLowerCase()] ?? unit }
}
