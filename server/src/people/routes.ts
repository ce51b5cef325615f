import { randomUUID } from 'node:crypto'
import {
  askSignInBody,
  ENDPOINTS,
  givePasswordBody,
  passwordBody,
  pinBody,
  readerBody,
  signInBody,
  signOutBody,
  switchBody,
} from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { parseCookie } from 'cookie'
import { eq } from 'drizzle-orm'
import { type CookieOptions, type Request, type Response, Router } from 'express'
import { operators } from '../database/schema.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import { type SignedIn, signedIn } from '../http/signedIn.ts'
import { readBody } from '../http/validate.ts'
import { Problem } from '../problem.ts'
import type { Access } from './access.ts'
import { browserCookie } from './guard.ts'
import { SESSION_DAYS } from './sessions.ts'
import { siteChanges } from './siteChanges.ts'

/** As long as browsers keep a cookie at most. */
const BROWSER_DAYS = 400

/** Who is here: signing in and out, passwords and PINs, and what everybody did. */
export function peopleRoutes({ db }: Pick<RouteContext, 'db'>, access: Access, cookie: string) {
  const router = Router()
  serve(router, ENDPOINTS.me, ({ who }) => access.me(who))
  serve(router, ENDPOINTS.siteChanges, ({ query }) => siteChanges(db, Number(query.before)))

  // These set or clear the cookie, which is nobody's business but the browser's.
  router.post(ENDPOINTS.signIn.path, async (req, res) => {
    const { name, password } = await readBody(signInBody, req.body)
    const before = signedIn(req)
    const token = await access.signInBy(name, password, req.ip ?? '')
    if (before) await access.sessions.end(before.session)
    await answerAs(req, res, token)
  })
  router.post(ENDPOINTS.signOut.path, async (req, res) => {
    const { everywhere } = await readBody(signOutBody, req.body)
    const who = signedIn(req)
    if (who) await access.signOut(who, everywhere)
    res.clearCookie(cookie, cookieOf(req)).json(await access.me(null))
  })
  router.post(ENDPOINTS.askSignIn.path, async (req, res) => {
    const { on, name, password } = await readBody(askSignInBody, req.body)
    if (!on) {
      await access.askSignIn(null)
      res.clearCookie(cookie, cookieOf(req)).json(await access.me(null))
      return
    }
    const asked = await readBody(givePasswordBody, { password })
    await answerAs(req, res, (await access.askSignIn({ name: name ?? '', ...asked, address: req.ip ?? '' })) as string)
  })
  async function answerAs(req: Request, res: Response, token: string) {
    const who = await access.sessions.of(token)
    res.cookie(cookie, token, { ...cookieOf(req), maxAge: SESSION_DAYS * DAY_MS })
    if (!parseCookie(req.get('cookie') ?? '')[browserCookie(cookie)]) {
      res.cookie(browserCookie(cookie), randomUUID(), { ...cookieOf(req), maxAge: BROWSER_DAYS * DAY_MS })
    }
    res.json(await access.me(who))
  }

  accept(router, ENDPOINTS.switchPerson, switchBody, async ({ body, who }) => {
    const { session } = known(who)
    await access.switchBy(known(who), Number(body.person), body.pin)
    return access.me(await access.sessions.known(session))
  })
  accept(router, ENDPOINTS.setPassword, passwordBody, async ({ body, who }) => {
    await access.changePassword(known(who), body.current, body.password)
    return access.me(who)
  })
  accept(router, ENDPOINTS.setPin, pinBody, async ({ body, who }) => {
    await access.changePin(known(who), body.password, body.pin ?? null)
    return access.me(who)
  })
  accept(router, ENDPOINTS.givePassword, givePasswordBody, async ({ params, body, who }) => {
    await access.givePassword(known(who).name, rowNumber(params.id, 'person'), body.password)
    return access.me(who)
  })
  accept(router, ENDPOINTS.setReader, readerBody, async ({ body, who }) => {
    const own = eq(operators.id, known(who).id)
    const [person] = await db.select().from(operators).where(own)
    const reader = { ...person?.reader, ...body } as Record<string, string>
    await db.update(operators).set({ reader }).where(own)
    return access.me(who)
  })
  return router
}

function known(who: SignedIn | null): SignedIn {
  if (who) return who
  throw new Problem(409, 'no-sign-in', 'Nobody signs in here.', {
    detail: 'Nothing was changed.',
    hint: 'Switch signing in on first, under Site.',
  })
}

const cookieOf = (req: Request): CookieOptions => ({
  httpOnly: true,
  sameSite: 'strict',
  secure: req.secure,
  path: '/',
})
