import { fixed } from '../../components/format.ts'

/** A raw number to as many figures as tell it from its neighbours. */
function figured(value: number): string {
  const short = String(Number(value.toPrecision(5)))
  return /e/.test(short) ? short : fixed(value, (short.split('.')[1] ?? '').length)
}

/** The same with its unit; pH stands before its number. */
export const withUnit = (value: number, unit: string): string =>
  unit === 'pH' ? `pH\u00a0${figured(value)}` : `${figured(value)}\u00a0${unit}`
