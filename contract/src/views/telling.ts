import type { MailSecurity, TellingWay, TellingWishes } from '../telling.ts'

export interface RecipientView {
  id: number
  name: string
  by: TellingWay
  address: string
  /** The broker of a topic. */
  connection: number | null
  wishes: TellingWishes
  hasSecret: boolean
  lastSentAt: number | null
  /** Why messages to it do not go out now. */
  problem: { text: string; since: number } | null
}

/** What somebody is told, for who holds the link in a message to them. */
export interface ToldView {
  site: string
  name: string
  alarms: boolean
  /** The digest in the morning, or reminders. */
  due: boolean
}

export interface MessageView {
  id: number
  recipient: string
  subject: string
  madeAt: number
  sentAt: number | null
  tries: number
  problem: string | null
  /** Null where it is not tried again. */
  nextTryAt: number | null
}

export interface TellingView {
  mail: {
    host: string
    port: number
    security: MailSecurity
    user: string
    sender: string
    hasPassword: boolean
  } | null
  recipients: RecipientView[]
  /** Brokers that are connected, for topics. */
  brokers: { id: number; name: string }[]
  /** The newest first. */
  messages: MessageView[]
}
