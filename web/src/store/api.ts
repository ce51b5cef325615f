import type {
  ProbeView,
  ProblemView,
  RoundsRow,
  SiteView,
  StandInBody,
  StartVisitBody,
  VisitView,
} from '@frustum/contract'
import { ROUTES } from '@frustum/contract/routes'
import { createApi, fetchBaseQuery, retry } from '@reduxjs/toolkit/query/react'
import type { RootState } from './store.ts'

const base = fetchBaseQuery({ baseUrl: '/' })

const patient = retry(
  async (args: Parameters<typeof base>[0], queryApi: Parameters<typeof base>[1], extra: object) => {
    const answer = await base(args, queryApi, extra)
    // The server's own "no" is an answer; only silence is worth another try.
    if (answer.error && answer.error.status !== 'FETCH_ERROR') retry.fail(answer.error, answer.meta)
    return answer
  },
  { maxRetries: 3 },
)

/** Only reading is tried again by itself: an action is the operator's to repeat. */
const query: typeof base = (args, queryApi, extra) =>
  queryApi.type === 'query' ? patient(args, queryApi, extra) : base(args, queryApi, extra)

/** One action on a visit: its name is the last part of the path. */
export interface VisitAction {
  id: string
  action: 'done' | 'skip' | 'redo' | 'capture' | 'typed' | 'go-on' | 'decide' | 'apply' | 'take-over' | 'abandon'
  body?: Record<string, unknown>
}

export const api = createApi({
  baseQuery: query,
  tagTypes: ['rounds', 'probe', 'visit'],
  endpoints: (build) => ({
    site: build.query<SiteView, void>({ query: () => ROUTES.site }),
    rounds: build.query<RoundsRow[], void>({ query: () => ROUTES.rounds, providesTags: ['rounds'] }),
    probe: build.query<ProbeView, string>({
      query: (position) => ROUTES.probe(position),
      providesTags: (_r, _e, position) => [{ type: 'probe', id: position }],
    }),
    visit: build.query<VisitView, string>({
      query: (id) => ROUTES.visit(id),
      providesTags: (_r, _e, id) => [{ type: 'visit', id }],
    }),
    startVisit: build.mutation<
      VisitView,
      Omit<StartVisitBody, 'clientId' | 'operator'> & { clientId: string; operator: string }
    >({
      query: (body) => ({ url: ROUTES.visits, method: 'POST', body }),
      invalidatesTags: ['rounds'],
    }),
    act: build.mutation<VisitView, VisitAction & { clientId: string; operator: string }>({
      query: ({ id, action, body, clientId, operator }) => ({
        url: ROUTES.visitAction(id, action),
        method: 'POST',
        body: { clientId, operator, ...body },
      }),
      async onQueryStarted({ id }, { dispatch, queryFulfilled }) {
        const { data } = await queryFulfilled.catch(() => ({ data: null }))
        if (!data) return
        dispatch(api.util.upsertQueryData('visit', id, data))
        if (data.closedAt) dispatch(api.util.invalidateTags(['rounds', { type: 'probe', id: data.position }]))
      },
    }),
    playStandIn: build.mutation<
      { immersion: number; faults: number },
      { position: string; body: Partial<StandInBody> }
    >({
      query: ({ position, body }) => ({ url: ROUTES.standIn(position), method: 'POST', body }),
    }),
  }),
})

export const {
  useSiteQuery,
  useRoundsQuery,
  useProbeQuery,
  useVisitQuery,
  useStartVisitMutation,
  useActMutation,
  usePlayStandInMutation,
} = api

/** Who asks, for the body of every action. */
export const askerOf = (state: RootState) => ({
  clientId: state.person.clientId,
  operator: state.person.operator ?? 'Operator',
})

/** What went wrong, in the server's words, or in ours when the server cannot be reached. */
export function problemOf(error: unknown): ProblemView {
  const data = (error as { data?: Partial<ProblemView> } | undefined)?.data
  if (data && typeof data.message === 'string') return { ...data, code: data.code ?? 'unknown', message: data.message }
  return {
    code: 'unreachable',
    message: 'The server cannot be reached.',
    detail: 'What was captured is safe there.',
    hint: 'Check that it runs; this page goes on by itself.',
  }
}
