import { Agent, request } from 'undici'
import { devicesOnly, lookUpPermitted, mayBePermitted, NOT_PERMITTED } from '../../../outbound.ts'
import { LineProblem } from '../../lineProblem.ts'
import type { Bus } from '../../link.ts'
import type { FieldSource } from '../messages/fieldFinder.ts'

/** Within which a page has to be there whole, ms. */
const ANSWER_WITHIN_MS = 5000
const MOST_BYTES = 1_000_000
const MOST_REDIRECTS = 3

interface PageSettings {
  url?: string
  auth?: 'none' | 'basic' | 'bearer'
  user?: string
  authority?: string
  linkLocal?: boolean
  answerMs?: number
}

export interface Fetched {
  text: string
  status: number
  /** What was asked, without what signs in. */
  asked: string
}

/** The page of a device; over the local network alone, and from no other host than the one that was asked. @throws LineProblem */
export async function fetchPage(bus: Bus, path: string, signal: AbortSignal): Promise<Fetched> {
  const { url = '', authority, linkLocal = false, answerMs: within = ANSWER_WITHIN_MS } = bus.settings as PageSettings
  const permits = devicesOnly(linkLocal)
  const agent = new Agent({
    connect: { lookup: lookUpPermitted(permits), timeout: within, ...(authority ? { ca: authority } : {}) },
    maxResponseSize: MOST_BYTES,
    pipelining: 0,
  })
  const late = AbortSignal.timeout(within)
  try {
    let at = pageUrl(url, path)
    for (let redirects = 0; ; redirects++) {
      if (!mayBePermitted(at, permits)) throw notPermitted(at.host)
      const answer = await request(at, {
        dispatcher: agent,
        signal: AbortSignal.any([signal, late]),
        headers: { accept: '*/*', ...signedIn(bus) },
      })
      const { statusCode, headers, body } = answer
      if (statusCode >= 300 && statusCode < 400 && headers.location) {
        await body.dump()
        const next = new URL(String(headers.location), at)
        if (next.origin !== at.origin)
          throw new LineProblem('refused', `It sends on to ${next.host || 'another place'}, which is not followed.`)
        if (redirects >= MOST_REDIRECTS) throw new LineProblem('refused', 'It sends on and on.')
        at = next
        continue
      }
      const text = await body.text()
      if (statusCode === 401 || statusCode === 403)
        throw new LineProblem('refused', `The page does not let this user in (${statusCode}).`)
      if (statusCode >= 300) throw new LineProblem('refused', `The page answers with ${statusCode}.`)
      return { text, status: statusCode, asked: `GET ${at.pathname}${at.search}` }
    }
  } catch (error) {
    throw pageProblem(error as Error, url, late.aborted, within)
  } finally {
    void agent.destroy()
  }
}

/** Below the connection's own address, on the same host. @throws LineProblem */
export function pageUrl(url: string, path: string): URL {
  if (!URL.canParse(url)) throw new LineProblem('refused', 'Its address is none.')
  const base = new URL(url)
  const joined = path === '' ? base : new URL(`${base.href.replace(/\/$/, '')}/${path.replace(/^\//, '')}`)
  if (joined.origin !== base.origin) throw new LineProblem('refused', 'That path leads to another host.')
  return joined
}

const notPermitted = (host: string) =>
  new LineProblem('refused', `${host} isn't a permitted address. Only pages on the local network are read.`)

function signedIn({ settings, secret }: Bus): Record<string, string> {
  const { auth = 'none', user = '' } = settings as PageSettings
  if (auth === 'basic') return { authorization: `Basic ${Buffer.from(`${user}:${secret ?? ''}`).toString('base64')}` }
  return auth === 'bearer' ? { authorization: `Bearer ${secret ?? ''}` } : {}
}

function pageProblem(
  error: Error & { code?: string; cause?: unknown },
  url: string,
  late: boolean,
  within: number,
): LineProblem {
  if (error instanceof LineProblem) return error
  const where = URL.canParse(url) ? new URL(url).host : url
  const code = error.code ?? (error.cause as { code?: string } | undefined)?.code ?? ''
  if (late || /TIMEOUT/.test(code)) return new LineProblem('no-answer', `${where} does not answer within ${within} ms.`)
  if (code === NOT_PERMITTED) return notPermitted(where)
  if (code === 'ECONNREFUSED') return new LineProblem('refused', `Nothing listens at ${where}.`)
  if (code === 'UND_ERR_RES_EXCEEDED_MAX_SIZE')
    return new LineProblem('garbled', `What ${where} answers is larger than 1 MB.`)
  if (/CERT|TLS|SSL|SIGN|VERIFY/.test(code))
    return new LineProblem('refused', `The certificate of ${where} is not believed (${code}).`)
  if (error.name === 'HTTPParserError') return new LineProblem('garbled', `What ${where} answers is no HTTP.`)
  return new LineProblem('no-connection', `${where} cannot be reached (${code || error.message}).`)
}

/** How often a page is fetched in a search, ms. */
const SEARCH_EVERY_MS = 2000

/** Looks at what a page holds. */
export const pageSource = (bus: Bus, path: string): FieldSource => ({
  words: `Fetching ${path || '/'}`,
  open: ({ heard, failed }) => {
    const stop = new AbortController()
    const fetchIt = () =>
      fetchPage(bus, path, stop.signal).then(
        ({ text }) => heard('', text, false),
        (error: Error) => failed(error.message),
      )
    void fetchIt()
    const timer = setInterval(fetchIt, SEARCH_EVERY_MS)
    return () => {
      clearInterval(timer)
      stop.abort()
    }
  },
})
