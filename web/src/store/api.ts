import type {
  FleetView,
  ImportReport,
  LedgerRow,
  LotBody,
  PastView,
  PlanView,
  ProbeView,
  ProblemView,
  RecordView,
  RoundsView,
  RulesBody,
  ShelfView,
  SiteView,
  StandInBody,
  StartingView,
  TripSummary,
  VisitView,
  WaitView,
  WhatIfView,
} from '@frustum/contract'
import { ROUTES } from '@frustum/contract/routes'
import type { Schools } from '@frustum/core'
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
  action:
    | 'done'
    | 'skip'
    | 'redo'
    | 'wait'
    | 'capture'
    | 'typed'
    | 'fill'
    | 'decide'
    | 'apply'
    | 'take-over'
    | 'abandon'
  body?: Record<string, unknown>
}

interface Asking {
  clientId: string
  operator: string
}

/** What begins a visit. */
export interface StartVisit extends Asking {
  position: string
  procedure: string
  standards: Record<string, string>
  opening: Record<string, unknown>
  trip?: string
  override?: string
}

export const api = createApi({
  baseQuery: query,
  tagTypes: ['site', 'rounds', 'plan', 'probe', 'visit', 'waits', 'trip', 'shelf', 'ledger'],
  endpoints: (build) => ({
    site: build.query<SiteView, void>({ query: () => ROUTES.site, providesTags: ['site'] }),
    setSchools: build.mutation<Schools, { operator: string; schools: Schools }>({
      query: (body) => ({ url: ROUTES.schools, method: 'POST', body }),
      invalidatesTags: ['site'],
    }),
    rounds: build.query<RoundsView, void>({ query: () => ROUTES.rounds, providesTags: ['rounds'] }),
    waits: build.query<WaitView[], void>({ query: () => ROUTES.waits, providesTags: ['waits'] }),
    probe: build.query<ProbeView, string>({
      query: (position) => ROUTES.probe(position),
      providesTags: (_r, _e, position) => [{ type: 'probe', id: position }],
    }),
    fleet: build.query<FleetView, void>({ query: () => ROUTES.fleet, providesTags: ['rounds'] }),
    whatIf: build.query<WhatIfView, { position: string; rules: RulesBody }>({
      query: ({ position, rules }) => ({ url: ROUTES.whatIf(position), method: 'POST', body: rules }),
    }),
    changeRules: build.mutation<ProbeView, { position: string; rules: RulesBody }>({
      query: ({ position, rules }) => ({ url: ROUTES.rules(position), method: 'POST', body: rules }),
      invalidatesTags: (_r, _e, { position }) => ['rounds', 'plan', { type: 'probe', id: position }],
    }),
    answerTest: build.mutation<ProbeView, { position: string; operator: string; feature: string; answer: string }>({
      query: ({ position, ...body }) => ({ url: ROUTES.tests(position), method: 'POST', body }),
      invalidatesTags: (_r, _e, { position }) => ['rounds', { type: 'probe', id: position }],
    }),
    confirmCause: build.mutation<ProbeView, { position: string; operator: string; cause: string }>({
      query: ({ position, ...body }) => ({ url: ROUTES.cause(position), method: 'POST', body }),
      invalidatesTags: (_r, _e, { position }) => [{ type: 'probe', id: position }],
    }),
    readHourMeter: build.mutation<ProbeView, { position: string; operator: string; hours: number; newMeter: boolean }>({
      query: ({ position, ...body }) => ({ url: ROUTES.hourMeter(position), method: 'POST', body }),
      invalidatesTags: (_r, _e, { position }) => ['rounds', 'plan', { type: 'probe', id: position }],
    }),
    giveNumbersBack: build.mutation<ProbeView, { position: string; operator: string }>({
      query: ({ position, ...body }) => ({ url: ROUTES.deviceNumbers(position), method: 'POST', body }),
      invalidatesTags: (_r, _e, { position }) => ['rounds', 'plan', { type: 'probe', id: position }],
    }),
    exclude: build.mutation<ProbeView, { id: string; operator: string; excluded: boolean; reason: string }>({
      query: ({ id, ...body }) => ({ url: ROUTES.exclusion(id), method: 'POST', body }),
      invalidatesTags: ['rounds', 'probe', 'plan'],
    }),
    past: build.query<PastView, { position: string; visit: string }>({
      query: ({ position, visit }) => ROUTES.past(position, visit),
    }),
    plan: build.query<PlanView, void>({ query: () => ROUTES.plan, providesTags: ['plan'] }),
    movePlan: build.mutation<PlanView, { operator: string; positions: string[]; to: number | null }>({
      query: (body) => ({ url: ROUTES.movePlan, method: 'POST', body }),
      async onQueryStarted(_body, { dispatch, queryFulfilled }) {
        const { data } = await queryFulfilled.catch(() => ({ data: null }))
        if (data) dispatch(api.util.upsertQueryData('plan', undefined, data))
      },
    }),
    renew: build.mutation<PlanView, { id: number; operator: string }>({
      query: ({ id, ...body }) => ({ url: ROUTES.renew(id), method: 'POST', body }),
      invalidatesTags: ['plan'],
    }),
    starting: build.query<StartingView, string>({ query: (position) => ROUTES.starting(position) }),
    visit: build.query<VisitView, string>({
      query: (id) => ROUTES.visit(id),
      providesTags: (_r, _e, id) => [{ type: 'visit', id }],
    }),
    startVisit: build.mutation<VisitView, StartVisit>({
      query: (body) => ({ url: ROUTES.visits, method: 'POST', body }),
      invalidatesTags: ['rounds', 'waits', 'trip'],
    }),
    act: build.mutation<VisitView, VisitAction & Asking & { actionId: string; madeAt: number }>({
      query: ({ id, action, body, clientId, operator, actionId, madeAt }) => ({
        url: ROUTES.visitAction(id, action),
        method: 'POST',
        body: { clientId, operator, actionId, madeAt, ...body },
      }),
      async onQueryStarted({ id, action }, { dispatch, queryFulfilled }) {
        const { data } = await queryFulfilled.catch(() => ({ data: null }))
        if (!data) return
        dispatch(api.util.upsertQueryData('visit', id, data))
        if (action === 'wait' || data.closedAt) dispatch(api.util.invalidateTags(['waits']))
        if (data.closedAt) {
          dispatch(
            api.util.invalidateTags([
              'rounds',
              'plan',
              'trip',
              'ledger',
              'shelf',
              { type: 'probe', id: data.position },
            ]),
          )
        }
      },
    }),
    trip: build.query<TripSummary, string>({ query: (id) => ROUTES.trip(id), providesTags: ['trip'] }),
    startTrip: build.mutation<TripSummary, Asking & { name: string; positions: string[] }>({
      query: (body) => ({ url: ROUTES.trips, method: 'POST', body }),
      invalidatesTags: ['rounds', 'trip'],
    }),
    endTrip: build.mutation<TripSummary, Asking & { id: string }>({
      query: ({ id, ...body }) => ({ url: ROUTES.endTrip(id), method: 'POST', body }),
      invalidatesTags: ['rounds', 'trip'],
    }),
    shelf: build.query<ShelfView, void>({ query: () => ROUTES.shelf, providesTags: ['shelf'] }),
    addLot: build.mutation<ShelfView, LotBody>({
      query: (body) => ({ url: ROUTES.shelf, method: 'POST', body }),
      invalidatesTags: ['shelf'],
    }),
    actOnLot: build.mutation<
      ShelfView,
      { id: number; operator: string; action: 'open' | 'discard' | 'use'; milliliters?: number; reason?: string }
    >({
      query: ({ id, ...body }) => ({ url: ROUTES.lot(id), method: 'POST', body }),
      invalidatesTags: ['shelf'],
    }),
    ledger: build.query<LedgerRow[], number | null>({
      query: (before) => (before ? `${ROUTES.ledger}?before=${before}` : ROUTES.ledger),
      providesTags: ['ledger'],
    }),
    record: build.query<RecordView, string>({ query: (id) => ROUTES.record(id), providesTags: ['ledger'] }),
    correct: build.mutation<RecordView, { id: string; operator: string; text: string }>({
      query: ({ id, ...body }) => ({ url: ROUTES.corrections(id), method: 'POST', body }),
      invalidatesTags: ['ledger'],
    }),
    importRecords: build.mutation<ImportReport, unknown>({
      query: (body) => ({ url: ROUTES.imported, method: 'POST', body }),
      invalidatesTags: ['ledger', 'rounds'],
    }),
    playStandIn: build.mutation<{ bath: string; faults: number }, { position: string; body: Partial<StandInBody> }>({
      query: ({ position, body }) => ({ url: ROUTES.standIn(position), method: 'POST', body }),
    }),
  }),
})

export const {
  useActMutation,
  useActOnLotMutation,
  useAddLotMutation,
  useAnswerTestMutation,
  useChangeRulesMutation,
  useConfirmCauseMutation,
  useCorrectMutation,
  useEndTripMutation,
  useExcludeMutation,
  useFleetQuery,
  useGiveNumbersBackMutation,
  useImportRecordsMutation,
  useLazyLedgerQuery,
  useLedgerQuery,
  useMovePlanMutation,
  usePastQuery,
  usePlanQuery,
  usePlayStandInMutation,
  useProbeQuery,
  useReadHourMeterMutation,
  useRecordQuery,
  useRenewMutation,
  useRoundsQuery,
  useSetSchoolsMutation,
  useShelfQuery,
  useSiteQuery,
  useStartTripMutation,
  useStartVisitMutation,
  useStartingQuery,
  useTripQuery,
  useVisitQuery,
  useWaitsQuery,
  useWhatIfQuery,
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
