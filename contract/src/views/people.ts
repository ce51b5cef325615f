import type { Role, Sentence } from '@frustum/core'
import type { Subject } from './rig.ts'

/** Somebody who works here, as others may see them. */
export interface PersonView {
  id: number
  name: string
  role: Role
  /** Whether they can take over a tablet by a PIN. */
  hasPin: boolean
}

/** Who is asking, and what they may do. */
export interface MeView {
  /** Another one each time the server was started. */
  run: string
  /** Whether people sign in here; where they do not, everybody may do everything. */
  signIn: boolean
  /** Whether others reach this server, so that signing in cannot be done without. */
  mustSignIn: boolean
  /** Null of one who has not signed in. */
  person: (PersonView & { hasPassword: boolean }) | null
  /** What they may do now: by a PIN nobody may more than an operator. Null where nobody is known. */
  role: Role | null
  by: 'password' | 'pin' | null
  /** Who else may take over this tablet; empty for one who has not signed in. */
  others: PersonView[]
  /** Series of wrong passwords or PINs for this person in the last two weeks, newest first. */
  wrongTries: { at: number; what: string }[]
}

/** A line of the one list of changes. */
export interface SiteChangeView {
  id: number
  at: number
  operator: string
  subject: Subject
  subjectId: number
  /** What it was changed of. */
  title: string
  what: Sentence
  why: string | null
}
