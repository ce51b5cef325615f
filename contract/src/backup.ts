import './validationMessages.ts'
import { boolean, number, object, string } from 'yup'

const count = () => number().integer().min(0).max(120).required()

export const backupSettingsBody = object({
  operator: string().trim().min(1).max(80).required(),
  folder: string().trim().max(400).defined(),
  nightly: boolean().required(),
  hour: number().integer().min(0).max(23).required(),
  keepDays: count(),
  keepWeeks: count(),
  keepMonths: count(),
  /** Left out: as it is. Empty: none from now on. */
  passphrase: string()
    .max(200)
    .test('length', 'At least 12 characters, or none.', (text) => !text || text.length >= 12),
}).noUnknown()

/** One of those that are listed. */
export const restoreBody = object({
  operator: string().trim().min(1).max(80).required(),
  file: string().max(200).required(),
  passphrase: string().max(200).default(''),
}).noUnknown()
