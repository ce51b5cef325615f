import { type Compensation, USUAL_ALPHA } from '../../conductivity/compensation.ts'
import type { ConductivityDisplay } from '../../measurement/measurementModel.ts'
import type { SettingTraits } from '../../procedures/procedure.ts'
import { EC_SCALES } from '../../quantities/ecScales.ts'

const DISPLAYS: readonly { value: ConductivityDisplay; label: string }[] = [
  ...(Object.keys(EC_SCALES) as (keyof typeof EC_SCALES)[]).map((scale) => ({ value: scale, label: scale })),
  { value: 'salinity', label: 'salinity (PSU, ppt)' },
  { value: 'specific gravity', label: 'specific gravity' },
  { value: 'MΩ·cm', label: 'resistivity, MΩ·cm' },
]

const LAWS: readonly { value: Compensation['law']; label: string }[] = [
  { value: 'linear', label: 'linear, by a coefficient' },
  { value: 'seawater', label: 'as seawater' },
  { value: 'natural-water', label: 'as natural water (ISO 7888)' },
  { value: 'high-purity', label: 'as high-purity water' },
  { value: 'none', label: 'none' },
]

const isLinear = { key: 'compensation', is: ['linear'] } as const

/** What a conductivity display shows, and how it refers to its reference temperature. */
export const CONDUCTIVITY_SETTING: SettingTraits = {
  fields: [
    { key: 'display', label: 'It shows', kind: 'choice', choices: DISPLAYS },
    { key: 'compensation', label: 'Compensates for temperature', kind: 'choice', choices: LAWS },
    {
      key: 'coefficient',
      label: 'Coefficient',
      kind: 'number',
      unit: '% per °C',
      low: 0,
      high: 10,
      decimals: 2,
      usual: USUAL_ALPHA,
      when: isLinear,
    },
    {
      key: 'referenceTemperature',
      label: 'Reference temperature',
      kind: 'number',
      unit: '°C',
      low: 15,
      high: 30,
      decimals: 0,
      usual: 25,
      when: isLinear,
    },
    { key: 'factoryCell', label: 'Factory-calibrated cell: tested, never adjusted', kind: 'tick' },
  ],
  valuesOf: ({ display = 'µS/cm', compensation = { law: 'none' }, factoryCell = false }) => ({
    display,
    compensation: compensation.law,
    ...(compensation.law === 'linear'
      ? { coefficient: compensation.alpha, referenceTemperature: compensation.reference }
      : {}),
    factoryCell,
  }),
  settingOf: ({ display, compensation: law, coefficient, referenceTemperature, factoryCell }) => ({
    display: display as ConductivityDisplay,
    compensation:
      law === 'linear'
        ? { law, alpha: Number(coefficient), reference: Number(referenceTemperature) }
        : { law: law as Exclude<Compensation['law'], 'linear'> },
    ...(factoryCell === true ? { factoryCell: true } : {}),
  }),
}
