import { percent } from '../../components/format.ts'

/** How likely a sensor is outside its limits on its day; of a visit after another one nothing is known yet. */
export const outText = (outside: number | null): string => (outside === null ? 'later' : `${percent(outside)} out`)
