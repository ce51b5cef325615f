import './validationMessages.ts'
import { array, number, object, string } from 'yup'

/** A value of a hand meter, a kit or a laboratory, of the same water at the same time; in the unit that is shown. */
const besideSchema = object({
  value: number().required(),
  /** Half-width of its 95 % interval. */
  uncertainty: number().positive('What is it good to? Above 0.').required(),
  with: string().trim().min(1, 'Say with what.').max(80).required('Say with what.'),
}).noUnknown()

const readingSchema = object({
  position: string().trim().min(1).max(80).required(),
  shown: number().required(),
  beside: besideSchema.nullable().default(null),
}).noUnknown()

/** A reading that was typed and was none. */
export const takeBackBody = object({
  operator: string().trim().min(1).max(80).required(),
  /** When it is said to have been read, epoch ms. */
  readAt: number().integer().required(),
  reason: string().trim().min(3, 'Say why in a few words.').max(500).required('Say why in a few words.'),
}).noUnknown()

/** What the displays of a place showed. */
export const walkBody = object({
  operator: string().trim().min(1).max(80).required(),
  /** When, epoch ms; missing for now. */
  at: number().integer(),
  readings: array(readingSchema).min(1, 'Type one at least.').max(500).required(),
}).noUnknown()
