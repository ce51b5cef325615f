import { REFERENCE_ELECTRODES, type ReferenceCode } from '../../electrode/referenceElectrodes.ts'
import type { SettingTraits } from '../../procedures/procedure.ts'
import type { FormValues } from '../../procedures/step.ts'

/** The reference electrode against which an ORP sensor reads; not every label says it. */
export const ORP_SETTING: SettingTraits = {
  fields: [
    {
      key: 'reference',
      label: 'Reference electrode',
      kind: 'choice',
      optional: true,
      choices: REFERENCE_ELECTRODES.map(({ code, label }) => ({ value: code, label })),
    },
  ],
  valuesOf: ({ reference }): FormValues => (reference ? { reference } : {}),
  settingOf: ({ reference }) => (reference ? { reference: reference as ReferenceCode } : {}),
}
