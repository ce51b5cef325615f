import { boolean, mixed, object, string } from 'yup'
import { FieldFinder } from '../messages/fieldFinder.ts'
import { fieldScheme } from '../messages/scheme.ts'
import { below, type Protocol } from '../protocol.ts'
import { AUTHORITY_FIELD, authority, POLL_SETTINGS, pollFields, user } from '../settings.ts'
import { pageSource } from './fetchPage.ts'
import { HttpConnection } from './httpConnection.ts'

const AUTH_NAMES = { none: 'None', basic: 'User and password', bearer: 'Token' } as const
const ANSWER_S = 5
/** What is in an address is shown to everybody: a password has a field of its own. */
const PLAIN_URL = /^https?:\/\/[^\s/@?#]+([/?#]\S*)?$/i

/** Pages that are fetched. */
export const HTTP: Protocol = {
  key: 'http',
  name: 'HTTP page',
  settings: object({
    url: string()
      .trim()
      .max(500)
      .matches(PLAIN_URL, {
        message: 'Start with http:// or https://, without a password.',
        excludeEmptyString: true,
      })
      .required('Enter the address, for example http://192.168.1.40/.'),
    auth: mixed<string>().oneOf(Object.keys(AUTH_NAMES)),
    user: user(),
    authority: authority(),
    linkLocal: boolean(),
    ...POLL_SETTINGS,
  }).noUnknown(),
  address: object({
    path: string()
      .trim()
      .max(500)
      .matches(/^(?!\/\/)[^\s\\]*$/, 'Enter only what follows the address of the connection.'),
  }).noUnknown(),
  mapping: fieldScheme({
    formats: ['number', 'json', 'senml', 'xml'],
    status: {
      title: 'Fault status',
      fields: [
        { key: 'at.field', label: 'Field', kind: 'text' },
        { key: 'values', label: 'Fault values', kind: 'text', list: true, hint: 'For example fault, 1.' },
      ],
    },
  }),
  polled: true,
  ownAddress: false,
  searchesByReading: false,
  hostSettings: ['url', 'authority'],
  reachedText: ({ url }) => String(url),
  addressText: ({ path }) => String(path ?? ''),
  form: () => ({
    settings: below('settings', [
      {
        key: 'url',
        label: 'Address',
        kind: 'text',
        hint: 'For example http://192.168.1.40/status. Local network only.',
      },
      {
        key: 'auth',
        label: 'Sign-in',
        kind: 'choice',
        usual: 'none',
        choices: Object.entries(AUTH_NAMES).map(([value, label]) => ({ value, label })),
      },
      { key: 'user', label: 'User', kind: 'text', when: { key: 'auth', is: ['basic'] } },
      { key: 'secret', label: 'Password', kind: 'secret', when: { key: 'auth', is: ['basic'] } },
      { key: 'secret', label: 'Token', kind: 'secret', when: { key: 'auth', is: ['bearer'] } },
      { key: 'linkLocal', label: 'Allow a link-local address (169.254.x.x, 100.64.x.x or fe80::)', kind: 'tick' },
      AUTHORITY_FIELD,
      ...pollFields(ANSWER_S),
    ]),
    address: below('address', [
      {
        key: 'path',
        label: 'Device page',
        kind: 'text',
        optional: true,
        hint: 'What follows the address, if there are several pages.',
      },
    ]),
    finder:
      'Enter what the display shows now, if you can see it. Frustum fetches the page every two seconds and lists what matches first.',
  }),
  open: ({ bus, clock, told }) => new HttpConnection(bus, clock, told),
  find: ({ bus, address, ...looked }) => new FieldFinder(pageSource(bus, String(address.path ?? '')), looked),
}
