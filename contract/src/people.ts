import './validationMessages.ts'
import { READER_CHOICES } from '@frustum/core'
import { boolean, object, string } from 'yup'

export const PASSWORD_LENGTH = { least: 10, most: 200 } as const
export const PIN_LENGTH = { least: 4, most: 8 } as const

const name = () => string().trim().min(1, 'Type your name.').max(80).required('Type your name.')
const known = () => string().max(PASSWORD_LENGTH.most).required('Type your password.')
const password = () =>
  string()
    .min(PASSWORD_LENGTH.least, `At least ${PASSWORD_LENGTH.least} characters.`)
    .max(PASSWORD_LENGTH.most)
    .required(`Choose a password of ${PASSWORD_LENGTH.least} characters or more.`)

/** Whether a PIN would be tried among the first: one digit repeated, or digits in a row. */
const isEasy = (pin: string): boolean =>
  /^(\d)\1*$/.test(pin) || '01234567890'.includes(pin) || '09876543210'.includes(pin)

const pin = () =>
  string()
    .matches(/^\d*$/, 'Digits only.')
    .min(PIN_LENGTH.least, `At least ${PIN_LENGTH.least} digits.`)
    .max(PIN_LENGTH.most, `At most ${PIN_LENGTH.most} digits.`)

export const signInBody = object({ name: name(), password: known() }).noUnknown()

/** `everywhere`: on all devices of this person. */
export const signOutBody = object({ everywhere: boolean().default(false) }).noUnknown()

export const switchBody = object({
  person: string()
    .matches(/^\d{1,9}$/, 'Choose who you are.')
    .required('Choose who you are.'),
  pin: pin().required('Type your PIN.'),
}).noUnknown()

export const passwordBody = object({ current: known(), password: password() }).noUnknown()

/** A PIN, with the password of whom it is; null takes it away. */
export const pinBody = object({
  password: known(),
  pin: pin()
    .nullable()
    .defined()
    .test('easy', 'Too easy to guess. Choose digits that are not in a row.', (text) => !text || !isEasy(text)),
}).noUnknown()

export const readerBody = object(
  Object.fromEntries(
    Object.entries(READER_CHOICES).map(([topic, { choices }]) => [topic, string().oneOf(Object.keys(choices))]),
  ),
).noUnknown()

/** On: with who begins as lead, and their password. */
export const askSignInBody = object({
  on: boolean().required(),
  name: string().trim().max(80),
  password: string().max(PASSWORD_LENGTH.most),
}).noUnknown()

export const givePasswordBody = object({ password: password() }).noUnknown()
