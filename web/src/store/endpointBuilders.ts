import { type AnswerOf, addressOf, type Endpoint, type ParamsOf } from '@frustum/contract/endpoints'
import type { ThunkAction, UnknownAction } from '@reduxjs/toolkit'
import type { EndpointBuilder } from '@reduxjs/toolkit/query/react'
import { FILE_HEADERS, type query, type Sent, send } from './request.ts'

export const TAGS = [
  'alarms',
  'telling',
  'walks',
  'me',
  'backup',
  'rig',
  'site',
  'rounds',
  'plan',
  'probe',
  'visit',
  'waits',
  'trip',
  'shelf',
  'ledger',
] as const
export type Tag = (typeof TAGS)[number]

/** What is fetched again after the site itself was changed. */
export const OF_THE_SITE = ['rig', 'site', 'rounds', 'plan', 'probe'] as const

/** A file as it is sent: checked first, and imported when `take` is true. */
export interface FileSent {
  file: Blob
  name: string
  operator: string
  take: boolean
}

/** Queries that an answer is put into, and the part of it that they are asked by. */
const SHOWN = {
  probe: 'position',
  visit: 'id',
  trip: 'id',
  record: 'id',
  finder: 'id',
  shelf: null,
  plan: null,
  backup: null,
  me: null,
  holds: null,
  instruments: null,
} as const
type Shown = keyof typeof SHOWN

// biome-ignore lint/suspicious/noExplicitAny: the state is made of the very api that this is a part of
type Upsert = (name: Shown, key: unknown, answer: unknown) => ThunkAction<unknown, any, any, UnknownAction>

/** Ways to declare an endpoint of the API, by what it does. */
export function endpointBuilders(build: EndpointBuilder<typeof query, Tag, 'api'>, upsert: Upsert) {
  /** An endpoint that only reads; `params` says how its address follows from what a page asks with. */
  const read = <E extends Endpoint, Ask>(endpoint: E, params: (ask: Ask) => ParamsOf<E>, tags: readonly Tag[] = []) =>
    build.query<AnswerOf<E>, Ask>({ query: (ask) => addressOf(endpoint, params(ask)), providesTags: tags })
  /** The same, where the address has no parameters. */
  const readWhole = <E extends Endpoint>(endpoint: E, tags: readonly Tag[]) =>
    build.query<AnswerOf<E>, void>({ query: () => endpoint.path, providesTags: tags })
  /** An endpoint that changes something, and what is to be fetched again after it. */
  const change = <E extends Endpoint>(endpoint: E, stale: readonly Tag[] = []) =>
    build.mutation<AnswerOf<E>, Sent<E>>({ query: (sent) => send(endpoint, sent), invalidatesTags: stale })
  /** The same, where the answer is what a query shows: it is put there, and not fetched again. */
  const changeShown = <E extends Endpoint>(endpoint: E, query: Shown, stale: readonly Tag[] = []) =>
    build.mutation<AnswerOf<E>, Sent<E>>({
      query: (sent) => send(endpoint, sent),
      invalidatesTags: stale,
      async onQueryStarted(_, { dispatch, queryFulfilled }) {
        const answer = await queryFulfilled.catch(() => null)
        const by = SHOWN[query]
        if (answer) dispatch(upsert(query, by ? (answer.data as Record<string, unknown>)[by] : undefined, answer.data))
      },
    })
  /** A sheet that is looked at, or taken in. */
  const bringSheet = <E extends Endpoint, Options extends { take: boolean }>(endpoint: E) =>
    build.mutation<AnswerOf<E>, { file: Blob; name: string; operator: string; options: Options }>({
      query: ({ file, name, operator, options }) => ({
        url: addressOf<Endpoint>(endpoint, {}, { name, operator, options: JSON.stringify(options) }),
        method: 'POST',
        body: file,
        headers: FILE_HEADERS,
      }),
      invalidatesTags: (_, __, { options }) => (options.take ? [...OF_THE_SITE, 'ledger'] : []),
    })
  const takeIn = <E extends Endpoint>(endpoint: E, tags: readonly Tag[]) =>
    build.mutation<AnswerOf<E>, FileSent>({
      query: ({ file, name, operator, take }) => ({
        url: addressOf<Endpoint>(endpoint, {}, { name, operator, take: String(take) }),
        method: 'POST',
        body: file,
        headers: FILE_HEADERS,
      }),
      invalidatesTags: (_, __, { take }) => (take ? tags : []),
    })
  return { read, readWhole, change, changeShown, bringSheet, takeIn }
}
