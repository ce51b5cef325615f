import { object } from 'yup'
import { FieldFinder } from '../messages/fieldFinder.ts'
import { MESSAGE_FORMATS } from '../messages/message.ts'
import { fieldScheme } from '../messages/scheme.ts'
import { below, type Protocol } from '../protocol.ts'
import { SEND_FIELD, SEND_SETTINGS } from '../settings.ts'
import { PushConnection, receivedSource } from './pushConnection.ts'

/** Devices that post what they read to an ingest address of their own. */
export const PUSH: Protocol = {
  key: 'push',
  name: 'Device sends by itself (HTTP POST)',
  settings: object(SEND_SETTINGS).noUnknown(),
  address: object({}).noUnknown(),
  mapping: fieldScheme({
    formats: MESSAGE_FORMATS,
    status: {
      title: 'Fault status',
      fields: [
        { key: 'at.field', label: 'Field', kind: 'text' },
        { key: 'values', label: 'Fault values', kind: 'text', list: true, hint: 'For example fault, 1.' },
      ],
    },
  }),
  polled: false,
  ownAddress: true,
  searchesByReading: false,
  hostSettings: [],
  reachedText: () => '',
  addressText: () => '',
  form: () => ({
    settings: below('settings', [SEND_FIELD]),
    address: [],
    finder: 'Enter what the display shows now, if you can see it, then let the device send once.',
  }),
  open: ({ bus, clock, told, received }) => new PushConnection(bus, clock, told, received),
  find: ({ received, ...looked }) => new FieldFinder(receivedSource(received), looked),
}
