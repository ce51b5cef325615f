import { practicalSalinity, seawaterConductivity } from '../conductivity/practicalSalinity.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { monotoneInterpolation } from '../statistics/monotoneInterpolation.ts'

/** Rows of a table of conductivity in uS/cm by temperature in degC. */
export interface ConductivityTable {
  temperatures: readonly number[]
  values: readonly number[]
}

export interface ConductivityStandard {
  code: string
  label: string
  /** uS/cm at 25 degC. */
  nominal: number
  family: 'molal' | 'demal' | 'molar' | 'seawater'
  /** Half-width of the 95 % interval of the value as used, % of it. */
  uncertainty: number
  low: number
  high: number
  source: string
}

const MOLAL_TEMPERATURES = [0, 5, 10, 15, 18, 20, 25, 30, 35, 40, 45, 50]
const MOLAL_SOURCE =
  'IUPAC 2001 (Pratt et al., Pure Appl. Chem. 73, 1783), KCl by molality, without the water\u2019s own'
const DEMAL_SOURCE = 'Jones and Bradshaw, J. Am. Chem. Soc. 55 (1933) 1780; ASTM D1125'
const MOLAR_TEMPERATURES = [0, 5, 10, 15, 20, 25, 30]
const MOLAR_SOURCE = 'KCl by volume, table of the handbooks; from memory of them'
const DILUTE_SOURCE = 'label value at 25 °C, with the law of temperature of KCl 0.01 mol/kg (IUPAC 2001)'

const MOLAL = {
  // Conductivity without the solvent's, uS/cm.
  '0.01': [772.92, 890.96, 1013.95, 1141.45, 1219.93, 1273.03, 1408.23, 1546.63, 1687.79, 1831.27, 1976.62, 2123.43],
  '0.1': [7116.85, 8183.7, 9291.72, 10437.1, 11140.6, 11615.9, 12824.6, 14059.2, 15316, 16591, 17880.6, 19180.9],
}
const MOLAL_ONE_TEMPERATURES = [0, 5, 10, 15, 20, 25, 30, 35, 40, 45, 50]
const MOLAL_ONE = [63488, 72030, 80844, 89900, 99170, 108620, 118240, 127970, 137810, 147720, 157670]

interface Entry {
  standard: ConductivityStandard
  valueAt: (temperature: number) => number
}

function tabled(
  standard: Omit<ConductivityStandard, 'low' | 'high'>,
  temperatures: readonly number[],
  values: readonly number[],
): Entry {
  const low = temperatures[0] as number
  const high = temperatures[temperatures.length - 1] as number
  return {
    standard: { ...standard, low, high },
    valueAt: monotoneInterpolation(temperatures, values, `Temperature of ${standard.label}`, '°C'),
  }
}

function molal(molality: '0.01' | '0.1'): Entry {
  const values = MOLAL[molality]
  const label = `KCl ${molality} mol/kg`
  const nominal = values[6] as number
  return tabled(
    { code: `kcl-molal-${molality}`, label, nominal, family: 'molal', uncertainty: 0.1, source: MOLAL_SOURCE },
    MOLAL_TEMPERATURES,
    values,
  )
}

function demal(strength: string, at0: number, at18: number, at25: number): Entry {
  // The demal is given at three temperatures only; what lies between follows the molal law through them.
  const law = monotoneInterpolation(MOLAL_TEMPERATURES, MOLAL['0.1'], 'Temperature', '°C')
  const given = [at0, at18, at25]
  const correction = monotoneInterpolation(
    [0, 18, 25],
    given.map((value, i) => value / law([0, 18, 25][i] as number)),
    'Temperature of KCl by demal',
    '°C',
  )
  return {
    standard: {
      code: `kcl-demal-${strength}`,
      label: `KCl ${strength} demal`,
      nominal: at25,
      family: 'demal',
      uncertainty: 0.1,
      low: 0,
      high: 25,
      source: DEMAL_SOURCE,
    },
    valueAt: (t) => correction(t) * law(t),
  }
}

function molar(code: string, label: string, nominal: number, values: number[]): Entry {
  return tabled(
    { code, label, nominal, family: 'molar', uncertainty: 1, source: MOLAR_SOURCE },
    MOLAR_TEMPERATURES,
    values,
  )
}

function dilute(code: string, label: string, nominal: number): Entry {
  const law = monotoneInterpolation(MOLAL_TEMPERATURES, MOLAL['0.01'], `Temperature of ${label}`, '°C')
  return {
    standard: { code, label, nominal, family: 'molar', uncertainty: 2, low: 0, high: 50, source: DILUTE_SOURCE },
    valueAt: (t) => (nominal * law(t)) / law(25),
  }
}

function seawater(code: string, label: string, nominal: number): Entry {
  const salinity = practicalSalinity(nominal, 25)
  return {
    standard: {
      code,
      label,
      nominal,
      family: 'seawater',
      uncertainty: 1,
      low: -2,
      high: 40,
      source: 'PSS-78 (UNESCO 44, 1983): seawater of this conductivity at 25 °C',
    },
    valueAt: (t) => seawaterConductivity(salinity, t),
  }
}

const ENTRIES: Entry[] = [
  dilute('kcl-84', '84 µS/cm', 84),
  dilute('kcl-147', '147 µS/cm', 147),
  molar('kcl-1413', '1413 µS/cm', 1413, [776, 896, 1020, 1147, 1278, 1413, 1552]),
  molar('kcl-2.77', '2.77 mS/cm', 2765, [1521, 1752, 1994, 2243, 2501, 2765, 3036]),
  molar('kcl-12.88', '12.88 mS/cm', 12880, [7150, 8220, 9330, 10480, 11670, 12880, 14120]),
  tabled(
    {
      code: 'kcl-111.8',
      label: '111.8 mS/cm',
      nominal: 111800,
      family: 'molar',
      uncertainty: 1,
      source: MOLAR_SOURCE,
    },
    [0, 5, 10, 15, 20, 25],
    [65410, 74140, 83190, 92520, 102090, 111800],
  ),
  seawater('seawater-50', '50.0 mS/cm seawater', 50000),
  seawater('seawater-53', '53.0 mS/cm seawater', 53000),
  molal('0.01'),
  molal('0.1'),
  tabled(
    {
      code: 'kcl-molal-1',
      label: 'KCl 1 mol/kg',
      nominal: 108620,
      family: 'molal',
      uncertainty: 0.1,
      source: MOLAL_SOURCE,
    },
    MOLAL_ONE_TEMPERATURES,
    MOLAL_ONE,
  ),
  demal('0.01', 773.64, 1220.52, 1408.77),
  demal('0.1', 7137.9, 11166.7, 12856),
  demal('1', 65176, 97838, 111342),
]

const BY_CODE = new Map(ENTRIES.map((e) => [e.standard.code, e]))

/**
 * Takes in a standard of a site's own.
 * @param reach uS/cm as it is at a temperature; null where only that at 25 degC is known: then it follows the law of KCl
 * @example takeConductivityStandard({ code: 'example', label: '', nominal: 2000, uncertainty: 1 }, null).high // 50
 */
export function takeConductivityStandard(
  standard: Omit<ConductivityStandard, 'family' | 'low' | 'high' | 'source'>,
  reach: { low: number; high: number; valueAt(temperature: number): number } | null,
): ConductivityStandard {
  const { standard: known, valueAt } = reach
    ? { standard: reach, valueAt: reach.valueAt }
    : dilute(standard.code, standard.label, standard.nominal)
  const { low, high } = known
  const taken: ConductivityStandard = { ...standard, low, high, family: 'molar', source: 'as its bottle says' }
  BY_CODE.set(standard.code, { standard: taken, valueAt })
  return taken
}

/** The conductivity standards that are known everywhere, those of the bottle first. */
export const CONDUCTIVITY_STANDARDS: readonly ConductivityStandard[] = ENTRIES.map((e) => e.standard)

function entry(code: string): Entry {
  const found = BY_CODE.get(code)
  if (!found) throw new RangeError(`There is no conductivity standard "${code}".`)
  return found
}

/**
 * The standard with this code. Throws RangeError for an unknown one.
 * @example conductivityStandard('kcl-1413').nominal // 1413
 */
export function conductivityStandard(code: string): ConductivityStandard {
  return entry(code).standard
}

/**
 * Conductivity of a standard as it is at a temperature, referred to nothing.
 * @param temperature degC, within the standard's own range
 * @param lotTable the lot's own printed table, which wins
 * @returns uS/cm
 * @throws OutOfRange for the temperature, RangeError for an unknown code
 * @example conductivityStandardValue('kcl-1413', 20) // 1278
 */
export function conductivityStandardValue(code: string, temperature: number, lotTable?: ConductivityTable): number {
  requireWithin('Temperature', temperature, -5, 110, '°C')
  const found = entry(code)
  if (lotTable) {
    return monotoneInterpolation(lotTable.temperatures, lotTable.values, 'Temperature of this lot', '°C')(temperature)
  }
  const { standard } = found
  requireWithin(`Temperature of ${standard.label}`, temperature, standard.low, standard.high, '°C')
  return found.valueAt(temperature)
}
