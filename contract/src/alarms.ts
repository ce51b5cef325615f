import './validationMessages.ts'
import { number, object, string } from 'yup'

const operator = () => string().trim().min(1).max(80).required()

/** Somebody saw it. */
export const seenBody = object({ operator: operator() }).noUnknown()

/** Nobody is told of it for so long, min, and why. */
export const quietBody = object({
  operator: operator(),
  minutes: number().integer().min(1, 'For a minute at least.').max(10_080, 'For a week at most.').required(),
  reason: string().trim().min(1, 'Say why.').max(200).required('Say why.'),
}).noUnknown()

/** Between which values the water should be. */
export const limitsSchema = object({
  lowLow: number(),
  low: number(),
  high: number(),
  highHigh: number(),
  perHour: number().positive('A change in an hour is above 0.'),
  apart: number().positive('A difference is above 0.'),
  hysteresis: number().min(0).required(),
  delaySeconds: number().min(0).max(86_400).required(),
}).noUnknown()

/** Without limits nothing of it is watched. */
export const limitsBody = object({
  operator: operator(),
  limits: limitsSchema.nullable().default(null),
}).noUnknown()
