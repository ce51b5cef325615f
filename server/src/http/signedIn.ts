import type { Role } from '@frustum/core'
import type { Request } from 'express'

/** Whoever asks, where people sign in. */
export interface SignedIn {
  id: number
  name: string
  /** What they may do now. */
  role: Role
  by: 'password' | 'pin'
  /** SHA-256 of the token of their browser's session. */
  session: string
  /** Tells their browser from others, through any number of sign-ins. */
  browser: string
}

interface Asking {
  who: SignedIn | null
  /** Whether this would still be answered. */
  stillMay: () => Promise<boolean>
}

const asking = new WeakMap<Request, Asking>()

export const rememberAsking = (req: Request, known: Asking): void => void asking.set(req, known)

/** Null where people do not sign in, or where nobody needs to. */
export const signedIn = (req: Request): SignedIn | null => asking.get(req)?.who ?? null

/** For what goes on long after it was asked for: whoever is signed out meanwhile hears no more. */
export const stillMay = async (req: Request): Promise<boolean> => (await asking.get(req)?.stillMay()) ?? true
