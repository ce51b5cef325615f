import { IONS, type IonCode } from '../../chemistry/ions.ts'
import type { SettingTraits } from '../../procedures/procedure.ts'

/** Which ion, and whether the device computes in activity or in concentration. */
export const ION_SETTING: SettingTraits = {
  fields: [
    {
      key: 'ion',
      label: 'Ion',
      kind: 'choice',
      choices: Object.values(IONS).map(({ code, label }) => ({ value: code, label })),
    },
    {
      key: 'expects',
      label: 'The device computes in',
      kind: 'choice',
      choices: [
        { value: 'activity', label: 'activity' },
        { value: 'concentration', label: 'concentration, as labels of standards say it' },
      ],
    },
  ],
  valuesOf: ({ ion = 'chloride', expects = 'activity' }) => ({ ion, expects }),
  settingOf: ({ ion, expects }) => ({
    ion: ion as IonCode,
    ...(expects === 'concentration' ? { expects } : {}),
  }),
}
