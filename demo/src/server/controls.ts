import { kindOf, type SensorKind, standardOf } from '@frustum/core'
import { FAULT_BITS } from '@frustum/lab/stand-ins'
import type { StandInView } from './contract.ts'

/** Standards that stand about besides the chosen ones, so that a wrong cup can be played. */
const ABOUT = ['pH4.01', 'pH7.00', 'pH10.01', 'kcl-1413', 'kcl-2.77', 'seawater-53', 'zobell', 'light']

type Fault = keyof typeof FAULT_BITS
const COMMON: readonly [Fault, string][] = [
  ['bubble', 'bubble'],
  ['swapped', 'swapped cups'],
  ['warm', 'too warm'],
  ['unsteady', 'unsteady temperature'],
  ['cableNoise', 'cable noise'],
  ['dead', 'cracked'],
  ['silent', 'line cut'],
  ['leftOver', 'old value stays'],
  ['unrinsed', 'not rinsed'],
  ['wrongTemperature', 'wrong temperature'],
  ['stray', 'stray voltage'],
]
const OF_CONDUCTIVITY: readonly [Fault, string][] = [
  ['notDry', 'cell not dry'],
  ['unitSlip', 'wrong unit'],
  ['compensation', 'wrong compensation'],
]

/** What the strip of a stand-in offers in this visit. */
export function standInControls(
  kind: SensorKind,
  procedure: string,
  standards: Readonly<Record<string, string>>,
): Pick<StandInView, 'baths' | 'faults'> {
  const chosen = [...new Set(Object.values(standards))]
  const others = kindOf(kind)
    .standards.map((s) => s.code)
    .filter((code) => ABOUT.includes(code))
  const codes = [...chosen, ...others.filter((c) => !chosen.includes(c))].slice(0, 4)
  const baths = [
    { name: 'process', label: 'process' },
    { name: 'rinse', label: 'rinse' },
    ...(kind === 'conductivity' || kind === 'ph' ? [{ name: 'air', label: 'air' }] : []),
    ...(kind === 'orp' ? [{ name: 'plug', label: 'plug' }] : []),
    ...codes.map((code) => ({ name: code, label: short(code) })),
    ...(kind === 'chlorine' || kind === 'nitrate-optical' ? [{ name: 'sample', label: 'known standard' }] : []),
    ...(procedure === 'electronics' ? [{ name: 'simulator', label: 'simulator' }] : []),
  ]
  const faults = [...COMMON, ...(kind === 'conductivity' ? OF_CONDUCTIVITY : [])]
  return { baths, faults: faults.map(([fault, label]) => ({ bit: FAULT_BITS[fault], label })) }
}

/** As short as still tells two cups apart. */
const short = (code: string) => standardOf(code).shortLabel.split(/[,(]/)[0]?.trim() ?? code
