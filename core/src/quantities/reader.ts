import type { UnitSymbol } from './quantityText.ts'
import { PLAIN_STYLE, type TextStyle } from './render.ts'

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
  decimals: { label: 'Decimal mark', choices: { point: 'point, 7.02', comma: 'comma, 7,02' } },
  clock: { label: 'Clock', choices: { '24': '24 hours, 17:05', '12': '12 hours, 5:05 pm' } },
  weekStart: { label: 'Weeks begin on', choices: { '1': 'Monday', '0': 'Sunday', '6': 'Saturday' } },
} as const

type ReaderTopic = keyof typeof READER_CHOICES
export type ReaderChoices = { readonly [T in ReaderTopic]: string & keyof (typeof READER_CHOICES)[T]['choices'] }

export const USUAL_READER: ReaderChoices = {
  temperature: '°C',
  conductivity: 'device',
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

/**
 * How sentences and quantities are written for a person.
 * @param instant an instant as text, on that person's clock
 * @example readerStyle({ ...USUAL_READER, decimals: 'comma' }).locale // 'fr'
 */
export const readerStyle = (
  { temperature, conductivity, decimals }: ReaderChoices,
  instant: TextStyle['instant'] = PLAIN_STYLE.instant,
): TextStyle => ({
  locale: decimals === 'comma' ? COMMA_LOCALE : PLAIN_STYLE.locale,
  units: {
    temperature: temperature as UnitSymbol,
    ...(conductivity !== 'device' ? { conductivity: conductivity as UnitSymbol } : {}),
  },
  instant,
})
