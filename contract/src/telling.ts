import './validationMessages.ts'
import { ALARM_SEVERITIES, type AlarmSeverity } from '@frustum/core'
import { boolean, number, object, string } from 'yup'

export const TELLING_WAYS = ['mail', 'webhook', 'mqtt'] as const
export type TellingWay = (typeof TELLING_WAYS)[number]

export const MAIL_SECURITIES = ['tls', 'starttls', 'none'] as const
export type MailSecurity = (typeof MAIL_SECURITIES)[number]

/** What somebody wants to be told, and when; hours by the site's own clock. */
export interface TellingWishes {
  /** From which severity on; null for no alarms. */
  alarms: AlarmSeverity | null
  /** From and to which hour; the gravest at any. The same twice is the whole day. */
  from: number
  to: number
  /** Only of what nobody saw for so long, min. */
  afterMinutes: number
  /** Told again so often until somebody saw it, min; 0 for once. */
  repeatMinutes: number
  /** At which hour what is due is told each day; null for never. */
  digestHour: number | null
  /** When something has to be begun. */
  reminders: boolean
}

const operator = () => string().trim().min(1).max(80).required()
const hour = () => number().integer().min(0).max(23)

export const wishesSchema = object({
  alarms: string().oneOf(ALARM_SEVERITIES).nullable().defined().default('warning'),
  from: hour().required(),
  to: hour().required(),
  afterMinutes: number().integer().min(0).max(1440, 'A day at most.').required('0 for at once.'),
  repeatMinutes: number()
    .integer()
    .test('repeat', 'Five minutes at least, or 0 for once.', (v) => v === 0 || (v ?? 0) >= 5)
    .max(1440, 'A day at most.')
    .required('0 for once.'),
  digestHour: hour().nullable().defined().default(null),
  reminders: boolean().required(),
}).noUnknown()

/** Nothing that could begin another line of a message's head. */
const oneLine = /^[^\r\n]*$/
const mailAddress = () =>
  string().trim().max(200).matches(oneLine, 'On one line.').email('Write a mail address, as name@host.')

const recipientFields = {
  name: string().trim().min(1, 'Who is it?').max(80).matches(oneLine, 'On one line.').required('Who is it?'),
  by: string().oneOf(TELLING_WAYS).required(),
  address: string()
    .trim()
    .max(500)
    .required('Write where to.')
    .when('by', ([by], schema) =>
      by === 'mail'
        ? mailAddress().required('Write a mail address.')
        : by === 'webhook'
          ? schema.matches(/^https?:\/\/[^\s]+$/, 'Write an address that begins with http:// or https://.')
          : schema.matches(/^[^#+\s\0]+$/, 'Write a topic without spaces, # or +.'),
    ),
  /** The broker of a topic. */
  connection: number().integer().min(1).nullable().default(null),
  /** What a webhook is signed with; missing leaves the one that it has. */
  secret: string().min(16, '16 characters at least.').max(200),
}

/** Somebody who is told from now on, or otherwise from now on. */
export const recipientBody = object({
  operator: operator(),
  ...recipientFields,
  wishes: wishesSchema.default(undefined).required('Say what is told, and when.'),
}).noUnknown()

/** A message to what stands on the form, kept nowhere. `id`: of one that is kept, whose key is used. */
export const tryTellingBody = object({
  operator: operator(),
  ...recipientFields,
  id: number().integer().min(1).nullable().default(null),
}).noUnknown()

/** What is stopped by the link in a message: what is due, or alarms as well. */
export const stopBody = object({ what: string().oneOf(['due', 'all']).required() }).noUnknown()

export const mailServerBody = object({
  operator: operator(),
  host: string()
    .trim()
    .max(253)
    .matches(/^[A-Za-z0-9.:_-]+$/, 'Write a name or an address without spaces.')
    .required('Write its name or address.'),
  port: number().integer().min(1).max(65_535).required('Write its port.'),
  security: string().oneOf(MAIL_SECURITIES).required(),
  user: string().trim().max(200).matches(oneLine, 'On one line.').default(''),
  sender: mailAddress().required('Write the address that messages come from.'),
  /** Missing leaves the one that it has; empty takes it away. */
  password: string().max(500),
}).noUnknown()
