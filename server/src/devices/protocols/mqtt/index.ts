import { CHANNELS, channelOf, type DeviceAddress, type Mapping } from '@frustum/contract'
import { boolean, mixed, object, string } from 'yup'
import { FieldFinder } from '../messages/fieldFinder.ts'
import { fieldScheme } from '../messages/scheme.ts'
import { below, type Protocol } from '../protocol.ts'
import {
  AUTHORITY_FIELD,
  authority,
  HOST_FIELD,
  host,
  portSetting,
  SEND_FIELD,
  SEND_SETTINGS,
  user,
} from '../settings.ts'
import { brokerText, MQTT_PORT, MQTT_TLS_PORT, MqttConnection, topicsBelow } from './mqttConnection.ts'

const VERSIONS = ['3.1.1', '5']
const TOPIC = /^([^+#/]*|\+)(\/([^+#/]*|\+))*(\/#)?$|^#$/

/** A broker, whose topics are only listened to. */
export const MQTT: Protocol = {
  key: 'mqtt',
  name: 'MQTT broker',
  settings: object({
    host: host().required('Enter the address or name of the broker.'),
    port: portSetting(),
    version: mixed<string>().oneOf(VERSIONS),
    tls: boolean(),
    authority: authority(),
    user: user(),
    ...SEND_SETTINGS,
  }).noUnknown(),
  address: object({
    topic: string().trim().max(500).matches(TOPIC, {
      message: 'Enter a topic. + stands for one level, # for all that follow.',
      excludeEmptyString: true,
    }),
  }).noUnknown(),
  mapping: fieldScheme({
    formats: ['number', 'json', 'senml', 'xml'],
    topics: true,
    status: {
      title: 'Offline message (last will)',
      fields: [
        { key: 'at.topic', label: 'Topic', kind: 'text' },
        { key: 'at.field', label: 'Field', kind: 'text', optional: true, hint: 'Leave blank for the whole payload.' },
        { key: 'values', label: 'Offline values', kind: 'text', list: true, hint: 'For example offline, 0.' },
      ],
    },
  }),
  polled: false,
  ownAddress: false,
  searchesByReading: false,
  hostSettings: ['host', 'port', 'tls', 'authority'],
  reachedText: (settings) =>
    [brokerText(settings), settings.tls && 'encrypted', settings.user && `as ${settings.user}`]
      .filter(Boolean)
      .join(', '),
  addressText: ({ topic }) => String(topic ?? ''),
  problems: topicProblems,
  form: () => ({
    settings: below('settings', [
      { ...HOST_FIELD, label: 'Broker address or name', hint: 'For example 192.168.1.10.' },
      {
        key: 'port',
        label: 'Port',
        kind: 'number',
        decimals: 0,
        optional: true,
        hint: `Leave blank for ${MQTT_PORT}, or ${MQTT_TLS_PORT} with TLS.`,
      },
      {
        key: 'version',
        label: 'MQTT version',
        kind: 'choice',
        usual: '3.1.1',
        choices: VERSIONS.map((value) => ({ value, label: value })),
      },
      { key: 'user', label: 'User', kind: 'text', optional: true, hint: 'Leave blank if the broker has no sign-in.' },
      { key: 'secret', label: 'Password', kind: 'secret', optional: true },
      { key: 'tls', label: 'Encrypted (TLS)', kind: 'tick' },
      { ...AUTHORITY_FIELD, when: { key: 'tls', is: [true] } },
      SEND_FIELD,
    ]),
    address: below('address', [
      {
        key: 'topic',
        label: 'Device topic',
        kind: 'text',
        optional: true,
        hint: 'For example tank/1, or tank/# to search. Leave blank for all.',
      },
    ]),
    finder:
      'Enter what the display shows now, if you can see it. Frustum listens for half a minute and lists what matches first.',
  }),
  open: ({ bus, clock, told }) => new MqttConnection(bus, clock, told),
  find: ({ bus, address, ...looked }) => new FieldFinder(topicsBelow(bus, String(address.topic || '#')), looked),
}

/** Every place needs one topic: its own, or that of the device. */
function topicProblems(mapping: Mapping, address: DeviceAddress): Record<string, string> {
  const places = [
    ...CHANNELS.map((name) => [name, channelOf(mapping, name)?.at] as const),
    ['status', mapping.status?.at] as const,
  ]
  for (const [name, at] of places) {
    if (!at) continue
    const topic = String(at.topic || address.topic || '')
    if (topic === '') return { [`mapping.${name}`]: 'Enter its topic.' }
    if (/[+#]/.test(topic)) return { [`mapping.${name}`]: 'Enter a single topic, without + and #.' }
  }
  return {}
}
