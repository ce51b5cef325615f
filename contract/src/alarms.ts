import './validationMessages.ts'
import { number, object, string } from 'yup'

const operator = () => string().trim().min(1).max(80).required()

export const shelveBody = object({
  operator: operator(),
  minutes: number().integer().min(1, 'At least one minute.').max(10_080, 'At most a week.').required(),
  reason: string().trim().min(1, 'Enter a reason.').max(200).required('Enter a reason.'),
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
