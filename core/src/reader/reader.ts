import { gravityRead, salinityRead } from '../conductivity/salinityScales.ts'
import type { UnitSymbol } from '../quantities/quantityText.ts'
import { PLAIN_STYLE, type TextStyle } from '../quantities/render.ts'

/** How a person reads numbers and dates: chosen once, followed by every screen; records keep their own. */
export const READER_CHOICES = {
  temperature: { label: 'Temperatures in', choices: { '°C': '°C', '°F': '°F' } },
  conductivity: {
    label: 'Conductivities in',
    choices: {
      device: 'what the device shows',
      'µS/cm': 'µS/cm',
      'mS/cm': 'mS/cm',
      CF: 'CF',
      'ppm 500': 'ppm 500',
      'ppm 640': 'ppm 640',
      'ppm 700': 'ppm 700',
    },
  },
  salinity: {
    label: 'Salt water in',
    choices: { device: 'what the device shows', PSU: 'PSU', ppt: 'ppt', SG: 'specific gravity (25/25)' },
  },
  decimals: { label: 'Decimal mark', choices: { point: 'point, 7.02', comma: 'comma, 7,02' } },
  clock: { label: 'Clock', choices: { '24': '24 hours, 17:05', '12': '12 hours, 5:05 pm' } },
  weekStart: { label: 'Weeks begin on', choices: { '1': 'Monday', '0': 'Sunday', '6': 'Saturday' } },
} as const

type ReaderTopic = keyof typeof READER_CHOICES
export type ReaderChoices = { readonly [T in ReaderTopic]: string & keyof (typeof READER_CHOICES)[T]['choices'] }

export const USUAL_READER: ReaderChoices = {
  temperature: '°C',
  conductivity: 'device',
  salinity: 'device',
  decimals: 'point',
  clock: '24',
  weekStart: '1',
}

/**
 * What was chosen, as far as it is known here; the rest as usual.
 * @example readerFrom({ temperature: '\u00b0F', clock: '13' }).clock // '24'
 */
export const readerFrom = (chosen: Readonly<Record<string, unknown>>): ReaderChoices =>
  Object.fromEntries(
    Object.entries(READER_CHOICES).map(([topic, { choices }]) => [
      topic,
      Object.hasOwn(choices, String(chosen[topic])) ? String(chosen[topic]) : USUAL_READER[topic as ReaderTopic],
    ]),
  ) as ReaderChoices

/** Marks decimals by a comma and thousands by a space, which nobody takes for a decimal mark. */
const COMMA_LOCALE = 'fr'

const same = (value: number) => value
const GRAVITY_PER_SALINITY = gravityRead(35.5) - gravityRead(34.5)

/**
 * Salt water in the scale that was chosen. Practical salinity has no unit; PSU and ppt are its names on displays
 * (common practice, no source). Widths are those near sea water: gravity is almost straight in salinity.
 */
function saltWater(wanted: ReaderChoices['salinity']): TextStyle['scales'] {
  switch (wanted) {
    case 'device':
      return {}
    case 'SG':
      return { PSU: () => ({ unit: 'SG', decimals: 4, of: gravityRead, width: (d) => d * GRAVITY_PER_SALINITY }) }
    default:
      return {
        PSU: (decimals) => ({ unit: wanted, decimals, of: same, width: same }),
        SG: () => ({ unit: wanted, decimals: 1, of: salinityRead, width: (d) => d / GRAVITY_PER_SALINITY }),
      }
  }
}

/**
 * How sentences and quantities are written for a person.
 * @param instant an instant as text, on that person's clock
 * @example readerStyle({ ...USUAL_READER, decimals: 'comma' }).locale // 'fr'
 */
export const readerStyle = (
  { temperature, conductivity, salinity, decimals }: ReaderChoices,
  instant: TextStyle['instant'] = PLAIN_STYLE.instant,
): TextStyle => ({
  locale: decimals === 'comma' ? COMMA_LOCALE : PLAIN_STYLE.locale,
  units: {
    temperature: temperature as UnitSymbol,
    ...(conductivity !== 'device' ? { conductivity: conductivity as UnitSymbol } : {}),
  },
  scales: saltWater(salinity),
  instant,
})
