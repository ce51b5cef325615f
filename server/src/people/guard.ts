import { ENDPOINTS, type Endpoint, type Needs } from '@frustum/contract'
import { mayDo, type Role } from '@frustum/core'
import { parseCookie } from 'cookie'
import type { NextFunction, Request, RequestHandler, Response } from 'express'
import { match } from 'path-to-regexp'
import { rememberAsking, type SignedIn } from '../http/signedIn.ts'
import { Problem } from '../problem.ts'
import type { Access } from './access.ts'

/** As the router reads addresses, so that none passes here that it would take for another. */
const ADDRESSES = Object.values<Endpoint>(ENDPOINTS).map((endpoint) => ({
  ...endpoint,
  fits: match(endpoint.path, { decode: false }),
}))

const EXTENSIONS = /^\/api\/extensions\//i

/** What an address needs: the most that any endpoint asks which it could be; what nobody knows needs most. */
function neededFor(method: string, path: string): Needs {
  if (EXTENSIONS.test(path)) return method === 'GET' || method === 'HEAD' ? 'viewer' : 'operator'
  const asked = method === 'HEAD' ? 'GET' : method
  const possible = ADDRESSES.filter((a) => a.method === asked && a.fits(path)).map((a) => a.needs)
  if (possible.length === 0) return 'lead'
  return possible.reduce((most, needs) =>
    most === 'anyone' || (needs !== 'anyone' && mayDo(needs, most)) ? needs : most,
  )
}

/** The cookie that tells a browser from others: it stays when its session ends. */
export const browserCookie = (cookie: string): string => `${cookie}-browser`

/** Lets through who may; before anything of a request is read. */
export function guard(access: Access, cookie: string): RequestHandler {
  const whoIs = async (req: Request): Promise<SignedIn | null> => {
    const cookies = parseCookie(req.get('cookie') ?? '')
    const token = cookies[cookie]
    return token ? access.sessions.of(token, cookies[browserCookie(cookie)]) : null
  }
  return async (req: Request, _res: Response, next: NextFunction) => {
    if (!access.signIn) {
      rememberAsking(req, { who: null, stillMay: async () => !access.signIn })
      return next()
    }
    const needs = neededFor(req.method, req.baseUrl + req.path)
    const who = await whoIs(req)
    rememberAsking(req, { who, stillMay: async () => isEnough(await whoIs(req), needs) })
    if (isEnough(who, needs)) return next()
    if (!who) throw new Problem(401, 'sign-in', 'Sign in first.', { detail: 'Nothing was done.' })
    throw new Problem(403, 'role', REFUSED[needs as Role], {
      detail: 'Nothing was done.',
      hint:
        who.by === 'pin' && needs === 'lead'
          ? 'By PIN nobody sets up anything. If you are a lead, sign in with your password.'
          : 'A lead can do it, or give you the role under Rig, People.',
    })
  }
}

const REFUSED: Readonly<Record<Role, string>> = {
  viewer: 'Sign in first.',
  operator: 'You may look at everything here, and record nothing.',
  lead: 'Only a lead may do this.',
}

const isEnough = (who: SignedIn | null, needs: Needs): boolean =>
  needs === 'anyone' || (who !== null && mayDo(who.role, needs))
