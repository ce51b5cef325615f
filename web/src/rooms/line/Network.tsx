import { HTTP_AUTH, MQTT_PORT, MQTT_TLS_PORT, MQTT_VERSIONS, type Protocol } from '@frustum/contract'
import type { ReactNode } from 'react'
import { Choice } from '../../components/Choice.tsx'
import { Field } from '../bench/Field.tsx'

/** How a broker or a page is reached, as it is typed. */
export interface NetworkDraft {
  host: string
  port: string
  version: (typeof MQTT_VERSIONS)[number]
  tls: boolean
  authority: string
  user: string
  secret: string
  auth: (typeof HTTP_AUTH)[number]
  url: string
  linkLocal: boolean
}

interface NetworkProps {
  protocol: Protocol
  draft: NetworkDraft
  errors: Readonly<Record<string, string>>
  /** A password or token is kept already: an empty field leaves it. */
  hasSecret?: boolean
  onChange: (change: Partial<NetworkDraft>) => void
}

const AUTH_NAMES = { none: 'nobody', basic: 'user and password', bearer: 'a token' } as const

/** The broker or page that a device speaks through, and who signs in there. */
export function Network({ protocol, draft, errors, hasSecret = false, onChange }: NetworkProps) {
  const error = (key: string) => errors[key] ?? errors[`settings.${key}`]
  const text = (
    key: 'host' | 'port' | 'user' | 'url',
    label: string,
    more: { hint?: string; wide?: boolean } = {},
  ): ReactNode => (
    <Field
      label={label}
      unit=""
      error={error(key)}
      value={draft[key]}
      onChange={(e) => onChange({ [key]: e.target.value })}
      {...more}
    />
  )
  const secret = (label: string) => (
    <Field
      label={label}
      unit=""
      type="password"
      autoComplete="off"
      error={error('secret')}
      hint={hasSecret ? 'One is kept; empty leaves it.' : 'It is never shown again.'}
      value={draft.secret}
      onChange={(e) => onChange({ secret: e.target.value })}
    />
  )
  const check = (key: 'tls' | 'linkLocal', label: string): ReactNode => (
    <label className="flex min-h-11 items-center gap-3 self-center pb-3">
      <input
        type="checkbox"
        className="checkbox border-[color:var(--line)]"
        checked={draft[key]}
        onChange={(e) => onChange({ [key]: e.target.checked })}
      />
      {label}
    </label>
  )
  const certificate = (
    <details className="w-full pb-3">
      <summary className="min-h-11 w-fit cursor-pointer content-center underline underline-offset-4">
        Its certificate is signed by an authority of your own
      </summary>
      <label className="block">
        <span className="block font-bold">Certificate of the authority, PEM</span>
        <textarea
          className="h-32 w-full max-w-2xl border border-[color:var(--line)] bg-base-100 p-3 font-mono text-sm"
          value={draft.authority}
          onChange={(e) => onChange({ authority: e.target.value })}
        />
      </label>
      <p role="alert" className="text-sm text-error">
        {error('authority')}
      </p>
    </details>
  )
  if (protocol === 'http') {
    return (
      <div className="flex flex-wrap gap-x-6">
        {text('url', 'Address', { wide: true, hint: 'For example http://192.168.1.40/status. Local network only.' })}
        <Choice
          label="Signs in with"
          value={draft.auth}
          choices={HTTP_AUTH.map((auth) => [auth, AUTH_NAMES[auth]])}
          onChoose={(auth) => onChange({ auth: auth as NetworkDraft['auth'] })}
        />
        {draft.auth === 'basic' && text('user', 'User')}
        {draft.auth !== 'none' && secret(draft.auth === 'basic' ? 'Password' : 'Token')}
        {draft.url.startsWith('https') && certificate}
        {check('linkLocal', 'Allow a link-local address (169.254.x.x, 100.64.x.x or fe80::)')}
      </div>
    )
  }
  return (
    <div className="flex flex-wrap gap-x-6">
      {text('host', 'Address or name of the broker', { wide: true, hint: 'As 192.168.1.10.' })}
      {text('port', 'Port', { hint: `Empty: ${draft.tls ? MQTT_TLS_PORT : MQTT_PORT}.` })}
      <Choice
        label="MQTT"
        value={draft.version}
        choices={MQTT_VERSIONS.map((v) => [v, v])}
        onChoose={(version) => onChange({ version: version as NetworkDraft['version'] })}
      />
      {text('user', 'User', { hint: 'Empty: nobody signs in.' })}
      {draft.user.trim() !== '' && secret('Password')}
      {check('tls', 'Encrypted (TLS)')}
      {draft.tls && certificate}
    </div>
  )
}
