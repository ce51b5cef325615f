import type { ProtocolField } from '@frustum/contract'
import { number, string } from 'yup'

/** Settings that several protocols have. */

const PEM = /^(-----BEGIN CERTIFICATE-----[\s\S]+-----END CERTIFICATE-----)?$/

export const host = () =>
  string()
    .trim()
    .max(253)
    .matches(/^[A-Za-z0-9._:-]*$/, 'Use letters, digits and dots only, for example 192.168.1.40.')
    .test(
      'complete',
      'Enter all four numbers, for example 192.168.1.40.',
      // The resolver takes 1.5 for 1.0.0.5, which nobody means.
      (text) => !text || !/^[\dx.-]+$/i.test(text) || /^(\d{1,3}\.){3}\d{1,3}$/.test(text),
    )

export const HOST_FIELD: ProtocolField = {
  key: 'host',
  label: 'Address or name',
  kind: 'text',
  hint: "For example 192.168.1.40. See the device's network menu.",
}

export const portSetting = () => number().integer().min(1).max(65535)

const everyMs = () => number().min(100).max(3_600_000)

export const POLL_SETTINGS = { everyMs: everyMs(), answerMs: number().min(50).max(30_000) }

/** @param answerS timeout unless another is set, s */
export const pollFields = (answerS: number): ProtocolField[] => [
  {
    key: 'everyMs',
    label: 'Poll interval',
    kind: 'number',
    unit: 's',
    factor: 1000,
    optional: true,
    advanced: true,
    hint: 'Leave blank for the default.',
  },
  {
    key: 'answerMs',
    label: 'Timeout',
    kind: 'number',
    unit: 's',
    factor: 1000,
    optional: true,
    advanced: true,
    hint: `Leave blank for ${answerS} s.`,
  },
]

export const SEND_SETTINGS = { everyMs: everyMs() }

/** How often a device sends by itself. */
export const SEND_FIELD: ProtocolField = {
  key: 'everyMs',
  label: 'Send interval',
  kind: 'number',
  unit: 's',
  factor: 1000,
  optional: true,
  advanced: true,
  hint: 'No data after four missed readings. Leave blank to learn it.',
}

export const authority = () =>
  string().trim().max(20_000).matches(PEM, {
    message: 'Paste the whole certificate, from BEGIN CERTIFICATE to END CERTIFICATE.',
    excludeEmptyString: true,
  })

export const AUTHORITY_FIELD: ProtocolField = {
  key: 'authority',
  label: 'CA certificate (PEM)',
  kind: 'text',
  lines: true,
  optional: true,
  advanced: true,
  hint: 'Only for a certificate signed by your own authority.',
}

export const user = () => string().trim().max(200)
