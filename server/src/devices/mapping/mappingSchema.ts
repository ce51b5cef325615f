import { CHANNELS, type Mapping } from '@frustum/contract'
import { type AnyObjectSchema, array, boolean, mixed, number, object, string } from 'yup'
import type { MappingScheme } from '../protocols/protocol.ts'

const MOST_PARAMETERS = 20

const factor = () =>
  number()
    .min(-1e12)
    .max(1e12)
    .test('factor', 'Enter a scale other than 0.', (v) => v !== 0)

const span = object({ at4: number().required(), at20: number().required(), unit: string().max(20).default('') })
  .noUnknown()
  .default(undefined)

/** Of a number at a place. */
const channelKeys = (place: AnyObjectSchema) => ({
  at: place.required(),
  unit: string().max(20).default(''),
  scale: factor().default(1),
  offset: number().min(-1e12).max(1e12).default(0),
  low: number(),
  high: number(),
  none: array(string().trim().max(20).required()).max(20),
  span,
})

const built = new WeakMap<MappingScheme, AnyObjectSchema>()

/** The schema of a mapping whose places are those of a scheme. */
export function mappingSchemaOf(scheme: MappingScheme): AnyObjectSchema {
  const known = built.get(scheme)
  if (known) return known
  const { place, options, writable } = scheme
  const channel = object(channelKeys(place)).noUnknown().default(undefined)
  const parameter =
    writable &&
    object({ ...channelKeys(writable.place), ...writable.keys })
      .noUnknown()
      .required()
  const schema = object({
    ...options,
    ...Object.fromEntries(CHANNELS.map((name) => [name, channel])),
    temperature: object({ ...channelKeys(place), at: place.default(undefined), position: string().max(80) })
      .noUnknown()
      .default(undefined),
    status: object({
      at: place.required(),
      bits: array(number().integer().min(0).max(31).required()).max(32),
      values: array(string().trim().max(40).required()).max(20),
    })
      .noUnknown()
      .default(undefined),
    ...(writable && parameter
      ? {
          calibration: mixed<NonNullable<Mapping['calibration']>>()
            .test(
              'parameters',
              'Check where the parameters are.',
              (parameters) =>
                parameters === undefined ||
                (Object.keys(parameters).length <= MOST_PARAMETERS &&
                  Object.values(parameters).every((one) => parameter.isValidSync(one, { strict: true }))),
            )
            .transform(
              (parameters) =>
                parameters &&
                Object.fromEntries(Object.entries(parameters).map(([key, one]) => [key, parameter.cast(one)])),
            ),
          writes: boolean(),
          hold: object({
            at: writable.place.required(),
            on: number().required(),
            off: number().required(),
            ...writable.keys,
          })
            .noUnknown()
            .default(undefined),
        }
      : {}),
  }).noUnknown()
  built.set(scheme, schema)
  return schema
}
