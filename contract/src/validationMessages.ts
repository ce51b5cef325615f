import { setLocale } from 'yup'

/** A whole body has no name. */
const named = (path: string) => (path && path !== 'this' ? `The field “${path}”` : 'What was sent')

/**
 * What a schema says where it was given no words of its own: such a field was not typed by anybody at a form, so its
 * name is all there is to go by. Set once, before any schema is made.
 */
setLocale({
  mixed: {
    default: ({ path }) => `${named(path)} is not valid.`,
    required: ({ path }) => `${named(path)} is missing.`,
    defined: ({ path }) => `${named(path)} is missing.`,
    notNull: ({ path }) => `${named(path)} is empty.`,
    oneOf: ({ path }) => `${named(path)} has none of the values that are known.`,
    notType: ({ path, type }) => `${named(path)} is of the wrong kind: ${type} is wanted.`,
  },
  string: {
    min: ({ path, min }) => `${named(path)} is too short: at least ${min} characters.`,
    max: ({ path, max }) => `${named(path)} is too long: at most ${max} characters.`,
    uuid: ({ path }) => `${named(path)} is no identifier.`,
    trim: ({ path }) => `${named(path)} begins or ends with a space.`,
  },
  number: {
    min: ({ path, min }) => `${named(path)} is too small: at least ${min}.`,
    max: ({ path, max }) => `${named(path)} is too large: at most ${max}.`,
    integer: ({ path }) => `${named(path)} is no whole number.`,
  },
  array: {
    min: ({ path, min }) => `${named(path)} is too short: at least ${min}.`,
    max: ({ path, max }) => `${named(path)} is too long: at most ${max}.`,
  },
  object: {
    noUnknown: ({ path, unknown }) => `${named(path)} holds what nobody asked for: ${[unknown].flat().join(', ')}.`,
  },
})
