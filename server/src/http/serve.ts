import {
  ACTION_HEADER,
  type AnswerOf,
  type BodyOf,
  type Endpoint,
  type ParamsOf,
  type SchemaOf,
} from '@frustum/contract'
import type { Request, Router } from 'express'
import type { AnyObjectSchema } from 'yup'
import { notFound, Problem } from '../problem.ts'
import { type DoneOnce, fingerprintOf } from './doneOnce.ts'
import type { Jobs } from './jobs.ts'
import { type SignedIn, signedIn } from './signedIn.ts'
import { readBody } from './validate.ts'

interface Asked<E> {
  params: ParamsOf<E>
  query: Request['query']
  /** Null where people do not sign in. */
  who: SignedIn | null
}

type Getter<E> = (asked: Asked<E>) => Promise<AnswerOf<E>> | AnswerOf<E>
/** `fingerprint` identifies the request: see fingerprintOf. */
type Poster<E> = (asked: Asked<E> & { body: BodyOf<E>; fingerprint: string }) => Promise<AnswerOf<E>> | AnswerOf<E>

/** The schema of an endpoint's body, or how it follows from the address where its bounds are known only at run time. */
type Reads<E> =
  SchemaOf<E> extends (...args: never[]) => infer Schema ? (params: ParamsOf<E>) => Promise<Schema> : SchemaOf<E>

function asked<E extends Endpoint>(req: Request): Asked<E> {
  const who = signedIn(req)
  return { params: req.params as ParamsOf<E>, query: who ? { ...req.query, operator: who.name } : req.query, who }
}

/** Records name who is signed in, whoever is named in a request. */
const inTheirName = (schema: AnyObjectSchema, sent: unknown, who: SignedIn | null): unknown =>
  who && 'operator' in schema.fields ? { ...(sent as object), operator: who.name } : sent

/** Answers an endpoint that only reads. */
export function serve<E extends Endpoint<string, unknown, unknown, 'GET'>>(
  router: Router,
  endpoint: E,
  handle: Getter<E>,
): void {
  router.get(endpoint.path, async (req, res) => {
    res.json(await handle(asked<E>(req)))
  })
}

/** Answers an endpoint that changes something; the body has been read by its schema before. */
export function accept<E extends Endpoint<string, unknown, unknown, 'POST'>>(
  router: Router,
  endpoint: E,
  schema: Reads<E>,
  handle: Poster<E>,
): void {
  router.post(endpoint.path, async (req, res) => {
    const request = asked<E>(req)
    const found = (await (typeof schema === 'function' ? schema(request.params) : schema)) as AnyObjectSchema | null
    const body = found === null ? req.body : await readBody(found, inTheirName(found, req.body, request.who))
    const fingerprint = fingerprintOf(request.who?.id ?? null, req.originalUrl, body)
    const answer = async () => handle({ ...request, body, fingerprint })
    const id = actionOf(req)
    const once = req.app.locals.doneOnce as DoneOnce
    const jobs = req.app.locals.jobs as Jobs
    const work = () => (id ? once({ id, fingerprint }, answer) : answer())
    await jobs.respond(req, res, { status: endpoint.status, work })
  })
}

/** The id under which an action is to be done once; lines of a visit's record have their own, in the body. */
function actionOf(req: Request): string | null {
  const id = req.get(ACTION_HEADER)
  if (id === undefined || req.body?.actionId !== undefined) return null
  if (isUuid(id)) return id
  throw new Problem(400, 'invalid', `${ACTION_HEADER} isn't a valid ID.`, {
    detail: 'Nothing was recorded.',
    hint: 'Send a UUID.',
  })
}

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i

/** Whether a text is an identifier of a visit or a trip. */
export const isUuid = (text: unknown): text is string => typeof text === 'string' && UUID.test(text)

/** The number of a row as an address has it: whole, and within what a row can be numbered. @throws Problem 404 */
export function rowNumber(text: string, what: string): number {
  if (!/^\d{1,9}$/.test(text)) throw notFound(what)
  return Number(text)
}

/** Nothing was read before, nor will anything be looked at later; also what the database can hold. */
const [EARLIEST, LATEST] = [Date.UTC(1900, 0, 1), Date.UTC(2200, 0, 1)]

/** Whether epoch ms are an instant that anything here can be of. */
export const isPossibleInstant = (ms: number): boolean => ms >= EARLIEST && ms <= LATEST

/** For a router whose `:id` is an identifier: anything else is not found. */
export const refuseOtherThanUuid =
  (what: string): Parameters<Router['param']>[1] =>
  (_req, _res, next, id) =>
    next(isUuid(id) ? undefined : notFound(what))
