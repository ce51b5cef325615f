import type { BringLogOptions, BringOptions, BringPastOptions, ProblemView, Subject } from '@frustum/contract'
import { DECIMAL_MARK_HEADER, decimalMark } from '@frustum/contract/decimalMark'
import {
  ACTION_HEADER,
  type AnswerOf,
  addressOf,
  type BodyOf,
  ENDPOINTS,
  type Endpoint,
  PASSPHRASE_HEADER,
  type ParamsOf,
} from '@frustum/contract/endpoints'
import { knowOwnStandards } from '@frustum/core'
import type { ThunkDispatch, UnknownAction } from '@reduxjs/toolkit'
import { createApi, fetchBaseQuery, retry } from '@reduxjs/toolkit/query/react'
import { followClock, followZone } from './clock.ts'
import { newId } from './person.ts'
import type { Acting, VisitAction } from './visitAction.ts'

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

/** So that the server reads typed numbers as this page does. */
const ownMark = (): Record<string, string> => {
  const mark = decimalMark()
  return mark ? { [DECIMAL_MARK_HEADER]: mark } : {}
}

/** Ids of actions that were sent and not answered yet, by what was sent. */
const unanswered = new Map<string, string>()

/** An action that is pressed again, because its answer never came or has not come yet, is known by its id. */
const act: typeof base = async (args, queryApi, extra) => {
  const request = typeof args === 'string' ? { url: args } : args
  // A photo is known by its content, and sent again is the same one.
  if (request.body instanceof Blob) return base(request, queryApi, extra)
  const what = JSON.stringify(request)
  const id = unanswered.get(what) ?? newId()
  unanswered.set(what, id)
  const answer = await base({ ...request, headers: { [ACTION_HEADER]: id, ...ownMark() } }, queryApi, extra)
  if (answer.error?.status !== 'FETCH_ERROR') unanswered.delete(what)
  return answer
}

const ASK_AGAIN_MS = 1000

/** An import that takes long is answered early, and its outcome fetched: no proxy cuts off what it waits for too long. */
const whenDone: typeof base = async (args, queryApi, extra) => {
  const answer = await act(args, queryApi, extra)
  if (answer.meta?.response?.status !== 202) return answer
  const { job } = answer.data as { job: string }
  for (;;) {
    await new Promise((resolve) => setTimeout(resolve, ASK_AGAIN_MS))
    const outcome = await patient(addressOf(ENDPOINTS.job, { id: job }), queryApi, extra)
    if (outcome.meta?.response?.status !== 202) return outcome
  }
}

/** Only reading is tried again by itself: an action is the operator's to repeat. */
const query: typeof base = (args, queryApi, extra) =>
  queryApi.type === 'query' ? patient(args, queryApi, extra) : whenDone(args, queryApi, extra)

/** A file is answered within ten seconds, or by where its outcome will be. */
const FILE_HEADERS = { 'content-type': 'application/octet-stream', prefer: 'respond-async, wait=10' }

/** What is sent to an endpoint that changes something: the parameters of its address and its body, in one object. */
type Sent<E extends Endpoint> = ParamsOf<E> & BodyOf<E>

/** The request for an endpoint, from what is sent to it. */
function send<E extends Endpoint>(endpoint: E, sent: Sent<E>) {
  const names = [...endpoint.path.matchAll(/:(\w+)/g)].map((m) => m[1])
  const body = Object.fromEntries(Object.entries(sent).filter(([name]) => !names.includes(name)))
  return { url: addressOf(endpoint, sent), method: endpoint.method, body }
}

/** How the store is told, as the toolkit types it within a request. */
// biome-ignore lint/suspicious/noExplicitAny: the state is made of the very api that this is a part of
type Dispatch = ThunkDispatch<any, unknown, UnknownAction>

const TAGS = [
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

/** What is fetched again after the site itself was changed. */
/** A file as it is sent: looked at first, and taken in when that is meant. */
export interface FileSent {
  file: Blob
  name: string
  operator: string
  take: boolean
}

const OF_THE_SITE = ['rig', 'site', 'rounds', 'plan', 'probe'] as const

interface SeriesOf {
  position: string
  from: number
  to: number
  most: number
  ordinary?: boolean
}

export const api = createApi({
  baseQuery: query,
  tagTypes: TAGS,
  endpoints: (build) => {
    /** An endpoint that only reads; `params` says how its address follows from what a page asks with. */
    const read = <E extends Endpoint, Ask>(
      endpoint: E,
      params: (ask: Ask) => ParamsOf<E>,
      tags: readonly (typeof TAGS)[number][] = [],
    ) => build.query<AnswerOf<E>, Ask>({ query: (ask) => addressOf(endpoint, params(ask)), providesTags: tags })
    /** The same, where the address has no parameters. */
    const readWhole = <E extends Endpoint>(endpoint: E, tags: readonly (typeof TAGS)[number][]) =>
      build.query<AnswerOf<E>, void>({ query: () => endpoint.path, providesTags: tags })
    /** An endpoint that changes something, and what is to be fetched again after it. */
    const change = <E extends Endpoint>(endpoint: E, stale: readonly (typeof TAGS)[number][] = []) =>
      build.mutation<AnswerOf<E>, Sent<E>>({ query: (sent) => send(endpoint, sent), invalidatesTags: stale })
    /** The same, where the answer is what a query shows: it is put there, and not fetched again. */
    const changeShown = <E extends Endpoint>(
      endpoint: E,
      show: (answer: AnswerOf<E>, dispatch: Dispatch) => void,
      stale: readonly (typeof TAGS)[number][] = [],
    ) =>
      build.mutation<AnswerOf<E>, Sent<E>>({
        query: (sent) => send(endpoint, sent),
        invalidatesTags: stale,
        async onQueryStarted(_, { dispatch, queryFulfilled }) {
          const answer = await queryFulfilled.catch(() => null)
          if (answer) show(answer.data, dispatch)
        },
      })
    const showProbe = (probe: AnswerOf<typeof ENDPOINTS.probe>, dispatch: Dispatch): void => {
      void dispatch(api.util.upsertQueryData('probe', probe.position, probe))
    }
    const showShelf = (shelf: AnswerOf<typeof ENDPOINTS.shelf>, dispatch: Dispatch): void => {
      void dispatch(api.util.upsertQueryData('shelf', undefined, shelf))
    }
    const showPlan = (plan: AnswerOf<typeof ENDPOINTS.plan>, dispatch: Dispatch): void => {
      void dispatch(api.util.upsertQueryData('plan', undefined, plan))
    }
    const showVisit = (visit: AnswerOf<typeof ENDPOINTS.visit>, dispatch: Dispatch): void => {
      void dispatch(api.util.upsertQueryData('visit', visit.id, visit))
    }
    const showTrip = (trip: AnswerOf<typeof ENDPOINTS.trip>, dispatch: Dispatch): void => {
      void dispatch(api.util.upsertQueryData('trip', trip.id, trip))
    }
    const showRecord = (record: AnswerOf<typeof ENDPOINTS.record>, dispatch: Dispatch): void => {
      void dispatch(api.util.upsertQueryData('record', record.id, record))
    }
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
    const takeIn = <E extends Endpoint>(endpoint: E, tags: readonly (typeof TAGS)[number][]) =>
      build.mutation<AnswerOf<E>, FileSent>({
        query: ({ file, name, operator, take }) => ({
          url: addressOf<Endpoint>(endpoint, {}, { name, operator, take: String(take) }),
          method: 'POST',
          body: file,
          headers: FILE_HEADERS,
        }),
        invalidatesTags: (_, __, { take }) => (take ? tags : []),
      })
    const showBackup = (backup: AnswerOf<typeof ENDPOINTS.backup>, dispatch: Dispatch): void => {
      void dispatch(api.util.upsertQueryData('backup', undefined, backup))
    }
    const showFinder = (finder: AnswerOf<typeof ENDPOINTS.finder>, dispatch: Dispatch): void => {
      void dispatch(api.util.upsertQueryData('finder', finder.id, finder))
    }
    const showMe = (me: AnswerOf<typeof ENDPOINTS.me>, dispatch: Dispatch): void => {
      void dispatch(api.util.upsertQueryData('me', undefined, me))
    }
    /** Somebody else is here now: all that was fetched may look otherwise to them. */
    const becomes = <
      E extends
        | typeof ENDPOINTS.signIn
        | typeof ENDPOINTS.signOut
        | typeof ENDPOINTS.switchPerson
        | typeof ENDPOINTS.askSignIn,
    >(
      endpoint: E,
    ) =>
      changeShown(
        endpoint as Endpoint as E,
        showMe as never,
        TAGS.filter((tag) => tag !== 'me'),
      )
    return {
      me: readWhole(ENDPOINTS.me, ['me']),
      signIn: becomes(ENDPOINTS.signIn),
      signOut: becomes(ENDPOINTS.signOut),
      switchPerson: becomes(ENDPOINTS.switchPerson),
      askSignIn: becomes(ENDPOINTS.askSignIn),
      setPassword: changeShown(ENDPOINTS.setPassword, showMe),
      setPin: changeShown(ENDPOINTS.setPin, showMe),
      setReader: changeShown(ENDPOINTS.setReader, showMe, ['site']),
      givePassword: changeShown(ENDPOINTS.givePassword, showMe, ['rig']),
      siteChanges: build.query<AnswerOf<typeof ENDPOINTS.siteChanges>, number | null>({
        query: (before) => addressOf(ENDPOINTS.siteChanges, {}, before ? { before } : {}),
        providesTags: ['site'],
      }),

      backup: readWhole(ENDPOINTS.backup, ['backup']),
      makeBackup: changeShown(ENDPOINTS.makeBackup, showBackup, ['rounds']),
      setBackup: changeShown(ENDPOINTS.setBackup, showBackup, ['rounds', 'site']),
      restoreBackup: change(ENDPOINTS.restoreBackup),
      restoreFile: build.mutation<AnswerOf<typeof ENDPOINTS.restoreFile>, { file: Blob; passphrase: string }>({
        query: ({ file, passphrase }) => ({
          url: ENDPOINTS.restoreFile.path,
          method: ENDPOINTS.restoreFile.method,
          body: file,
          headers: {
            'content-type': 'application/octet-stream',
            [PASSPHRASE_HEADER]: encodeURIComponent(passphrase),
          },
        }),
      }),

      site: build.query<AnswerOf<typeof ENDPOINTS.site>, void>({
        query: () => ENDPOINTS.site.path,
        providesTags: ['site'],
        async onQueryStarted(_, { queryFulfilled }) {
          const answer = await queryFulfilled.catch(() => null)
          if (!answer) return
          followClock(answer.data.clock)
          followZone(answer.data.timeZone)
          knowOwnStandards(answer.data.ownStandards)
        },
      }),
      setUp: change(ENDPOINTS.setUp, ['site', 'rig', 'rounds']),
      protocols: readWhole(ENDPOINTS.protocols, []),
      connections: readWhole(ENDPOINTS.connections, ['rig']),
      connection: read(ENDPOINTS.connection, (id: string) => ({ id }), ['rig']),
      editConnection: change(ENDPOINTS.editConnection, ['rig']),
      deleteConnection: change(ENDPOINTS.deleteConnection, ['rig']),
      line: read(ENDPOINTS.line, (id: string) => ({ id }), ['rig']),
      setLine: change(ENDPOINTS.setLine, OF_THE_SITE),
      tryLine: change(ENDPOINTS.tryLine),
      removeLine: change(ENDPOINTS.removeLine, OF_THE_SITE),
      setToken: change(ENDPOINTS.setToken, OF_THE_SITE),
      keepProfile: change(ENDPOINTS.keepProfile, OF_THE_SITE),
      deleteProfile: change(ENDPOINTS.deleteProfile, OF_THE_SITE),
      alarms: readWhole(ENDPOINTS.alarms, ['alarms']),
      acknowledgeAlarm: change(ENDPOINTS.acknowledgeAlarm, ['alarms']),
      shelveAlarm: change(ENDPOINTS.shelveAlarm, ['alarms']),
      unshelveAlarm: change(ENDPOINTS.unshelveAlarm, ['alarms']),
      learning: readWhole(ENDPOINTS.learning, ['probe']),
      alarmHistory: build.query<AnswerOf<typeof ENDPOINTS.alarmHistory>, { from: number; to: number }>({
        query: (span) => addressOf(ENDPOINTS.alarmHistory, {}, span),
        providesTags: ['alarms'],
      }),
      setLimits: change(ENDPOINTS.setLimits, ['probe']),
      lastDays: readWhole(ENDPOINTS.lastDays, ['probe']),
      walks: readWhole(ENDPOINTS.walks, ['walks']),
      walk: read(ENDPOINTS.walk, (id: string) => ({ id }), ['walks']),
      takeBack: change(ENDPOINTS.takeBack, ['walks', 'rounds', 'probe', 'alarms']),
      keepWalk: change(ENDPOINTS.keepWalk, ['walks', 'rounds', 'probe', 'alarms']),
      telling: readWhole(ENDPOINTS.telling, ['telling']),
      setMailServer: change(ENDPOINTS.setMailServer, ['telling']),
      addRecipient: change(ENDPOINTS.addRecipient, ['telling']),
      changeRecipient: change(ENDPOINTS.changeRecipient, ['telling']),
      dropRecipient: change(ENDPOINTS.dropRecipient, ['telling']),
      told: read(ENDPOINTS.told, (token: string) => ({ token }), ['telling']),
      stopTelling: change(ENDPOINTS.stopTelling, ['telling']),
      tryTelling: change(ENDPOINTS.tryTelling, []),
      holds: readWhole(ENDPOINTS.holds, []),
      releaseHold: changeShown(ENDPOINTS.releaseHold, (list, dispatch) => {
        void dispatch(api.util.upsertQueryData('holds', undefined, list))
      }),
      find: change(ENDPOINTS.find),
      finders: readWhole(ENDPOINTS.finders, []),
      finder: read(ENDPOINTS.finder, (id: string) => ({ id })),
      look: changeShown(ENDPOINTS.look, showFinder),
      stopFinder: changeShown(ENDPOINTS.stopFinder, showFinder),
      rig: readWhole(ENDPOINTS.rig, ['rig']),
      thing: read(ENDPOINTS.thing, (of: { subject: Subject; id: string }) => of, ['rig']),
      moves: build.query<AnswerOf<typeof ENDPOINTS.moves>, Sent<typeof ENDPOINTS.moves>>({
        query: (sent) => send(ENDPOINTS.moves, sent),
      }),
      bringSensors: bringSheet<typeof ENDPOINTS.bringSensors, BringOptions>(ENDPOINTS.bringSensors),
      bringPast: bringSheet<typeof ENDPOINTS.bringPast, BringPastOptions>(ENDPOINTS.bringPast),
      bringLog: bringSheet<typeof ENDPOINTS.bringLog, BringLogOptions>(ENDPOINTS.bringLog),
      bringProgress: readWhole(ENDPOINTS.bringProgress, []),
      takenFiles: readWhole(ENDPOINTS.takenFiles, ['site']),
      importSetUp: takeIn(ENDPOINTS.importSetUp, OF_THE_SITE),
      addPosition: change(ENDPOINTS.addPosition, OF_THE_SITE),
      copyPositions: change(ENDPOINTS.copyPositions, OF_THE_SITE),
      putInUse: change(ENDPOINTS.putInUse, OF_THE_SITE),
      moveSensor: change(ENDPOINTS.moveSensor, OF_THE_SITE),
      addThing: change(ENDPOINTS.addThing, OF_THE_SITE),
      editThing: change(ENDPOINTS.editThing, OF_THE_SITE),
      archiveThing: change(ENDPOINTS.archiveThing, OF_THE_SITE),
      deleteThing: change(ENDPOINTS.deleteThing, OF_THE_SITE),
      undoThing: change(ENDPOINTS.undoThing, OF_THE_SITE),
      setSchools: change(ENDPOINTS.setSchools, ['site']),
      setKeeping: change(ENDPOINTS.setKeeping, ['site']),
      undoSiteChange: change(ENDPOINTS.undoSiteChange, ['site']),
      rounds: readWhole(ENDPOINTS.rounds, ['rounds']),
      waits: readWhole(ENDPOINTS.waits, ['waits']),

      fleet: readWhole(ENDPOINTS.fleet, ['rounds']),
      probe: read(ENDPOINTS.probe, (position: string) => ({ position }), ['probe']),
      starting: read(ENDPOINTS.starting, (position: string) => ({ position }), ['rig', 'shelf']),
      whatIf: build.query<AnswerOf<typeof ENDPOINTS.whatIf>, Sent<typeof ENDPOINTS.whatIf>>({
        query: (sent) => send(ENDPOINTS.whatIf, sent),
      }),
      changeRules: changeShown(ENDPOINTS.changeRules, showProbe, ['rounds', 'plan']),
      undoRule: changeShown(ENDPOINTS.undoRule, showProbe, ['rounds', 'plan']),
      answerTest: changeShown(ENDPOINTS.answerTest, showProbe, ['rounds']),
      noteEvent: changeShown(ENDPOINTS.noteEvent, showProbe, ['rounds', 'plan']),
      confirmCause: changeShown(ENDPOINTS.confirmCause, showProbe, ['rounds']),
      readHourMeter: changeShown(ENDPOINTS.readHourMeter, showProbe, ['rounds', 'plan']),
      restoreDeviceCalibration: changeShown(ENDPOINTS.restoreDeviceCalibration, showProbe, ['rounds', 'plan']),
      exclude: changeShown(ENDPOINTS.exclude, showProbe, ['rounds', 'plan']),
      past: read(ENDPOINTS.past, (of: { position: string; visit: string }) => of),
      series: build.query<AnswerOf<typeof ENDPOINTS.series>, SeriesOf>({
        query: ({ position, from, to, most, ordinary }) =>
          `${addressOf(ENDPOINTS.series, { position })}?from=${from}&to=${to}&most=${most}${ordinary ? '&ordinary' : ''}`,
      }),

      visit: read(ENDPOINTS.visit, (id: string) => ({ id })),
      startVisit: changeShown(ENDPOINTS.startVisit, showVisit, ['rounds', 'waits', 'trip']),
      act: build.mutation<AnswerOf<typeof ENDPOINTS.visit>, VisitAction & Acting>({
        query: ({ id, action, body, ...acting }) => ({
          url: addressOf(ENDPOINTS[action], { id }),
          method: 'POST',
          body: { ...acting, ...body },
        }),
        async onQueryStarted({ id, action, body }, { dispatch, queryFulfilled }) {
          const answer = await queryFulfilled.catch(() => null)
          if (!answer) return
          const visit = answer.data
          // What is held is shown above the step: known first, so that nothing moves under the thumb afterwards.
          const step = action === 'done' ? (body as { step?: string }).step : undefined
          if (step === 'hold' || step === 'release')
            await dispatch(api.endpoints.holds.initiate(undefined, { forceRefetch: true, subscribe: false }))
          void dispatch(api.util.upsertQueryData('visit', id, visit))
          const waits = visit.steps.some((s) => s.kind === 'wait')
          if (waits || visit.closedAt) dispatch(api.util.invalidateTags(['waits']))
          if (visit.closedAt) {
            dispatch(api.util.invalidateTags(['rounds', 'plan', 'trip', 'ledger', 'shelf', 'probe']))
          }
        },
      }),

      trip: read(ENDPOINTS.trip, (id: string) => ({ id }), ['trip']),
      startTrip: changeShown(ENDPOINTS.startTrip, showTrip, ['rounds']),
      endTrip: changeShown(ENDPOINTS.endTrip, showTrip, ['rounds']),

      plan: readWhole(ENDPOINTS.plan, ['plan']),
      movePlan: changeShown(ENDPOINTS.movePlan, showPlan),
      renewCalendar: changeShown(ENDPOINTS.renewCalendar, showPlan),
      renew: changeShown(ENDPOINTS.renew, showPlan),

      shelf: readWhole(ENDPOINTS.shelf, ['shelf']),
      addPhoto: build.mutation<AnswerOf<typeof ENDPOINTS.addPhoto>, Blob>({
        query: (photo) => ({
          url: ENDPOINTS.addPhoto.path,
          method: ENDPOINTS.addPhoto.method,
          body: photo,
          headers: { 'content-type': photo.type },
        }),
      }),
      instruments: readWhole(ENDPOINTS.instruments, []),
      addInstrument: changeShown(
        ENDPOINTS.addInstrument,
        (list, dispatch) => {
          void dispatch(api.util.upsertQueryData('instruments', undefined, list))
        },
        ['rig'],
      ),
      addLot: changeShown(ENDPOINTS.addLot, showShelf),
      actOnLot: changeShown(ENDPOINTS.actOnLot, showShelf),

      report: build.query<AnswerOf<typeof ENDPOINTS.report>, Readonly<Record<string, string>>>({
        query: (asked) => addressOf(ENDPOINTS.report, {}, asked),
        providesTags: ['ledger'],
      }),
      ledger: build.query<AnswerOf<typeof ENDPOINTS.ledger>, number | null>({
        query: (before) => addressOf(ENDPOINTS.ledger, {}, before ? { before } : {}),
        providesTags: ['ledger'],
      }),
      record: read(ENDPOINTS.record, (id: string) => ({ id })),
      correct: changeShown(ENDPOINTS.correct, showRecord, ['ledger']),
      importRecords: takeIn(ENDPOINTS.importRecords, [...OF_THE_SITE, 'ledger']),
    }
  },
})

export const {
  useActMutation,
  useAskSignInMutation,
  useConnectionQuery,
  useConnectionsQuery,
  useDeleteConnectionMutation,
  useEditConnectionMutation,
  useFinderQuery,
  useFindersQuery,
  useHoldsQuery,
  useReleaseHoldMutation,
  useFindMutation,
  useLineQuery,
  useLookMutation,
  useRemoveLineMutation,
  useKeepProfileMutation,
  useSetTokenMutation,
  useDeleteProfileMutation,
  useSetLineMutation,
  useStopFinderMutation,
  useTryLineMutation,
  useBackupQuery,
  useMakeBackupMutation,
  useRestoreBackupMutation,
  useRestoreFileMutation,
  useSetBackupMutation,
  useGivePasswordMutation,
  useMeQuery,
  useRenewCalendarMutation,
  useSetPasswordMutation,
  useSetPinMutation,
  useSetReaderMutation,
  useSignInMutation,
  useSignOutMutation,
  useSiteChangesQuery,
  useSwitchPersonMutation,
  useActOnLotMutation,
  useAddInstrumentMutation,
  useAddLotMutation,
  useAddPhotoMutation,
  useAddPositionMutation,
  useCopyPositionsMutation,
  useAddThingMutation,
  useArchiveThingMutation,
  useBringLogMutation,
  useBringPastMutation,
  useBringProgressQuery,
  useBringSensorsMutation,
  useImportSetUpMutation,
  useDeleteThingMutation,
  useEditThingMutation,
  useMoveSensorMutation,
  useMovesQuery,
  usePutInUseMutation,
  useRigQuery,
  useSetUpMutation,
  useThingQuery,
  useUndoThingMutation,
  useAnswerTestMutation,
  useChangeRulesMutation,
  useConfirmCauseMutation,
  useCorrectMutation,
  useEndTripMutation,
  useExcludeMutation,
  useFleetQuery,
  useImportRecordsMutation,
  useLazyLedgerQuery,
  useLedgerQuery,
  useMovePlanMutation,
  usePastQuery,
  useSeriesQuery,
  useAlarmsQuery,
  useAcknowledgeAlarmMutation,
  useShelveAlarmMutation,
  useUnshelveAlarmMutation,
  useLearningQuery,
  useAlarmHistoryQuery,
  useSetLimitsMutation,
  useTellingQuery,
  useLastDaysQuery,
  useWalksQuery,
  useWalkQuery,
  useKeepWalkMutation,
  useTakeBackMutation,
  useSetMailServerMutation,
  useAddRecipientMutation,
  useChangeRecipientMutation,
  useDropRecipientMutation,
  useStopTellingMutation,
  useToldQuery,
  useTryTellingMutation,
  usePlanQuery,
  useProbeQuery,
  useProtocolsQuery,
  useReadHourMeterMutation,
  useRecordQuery,
  useReportQuery,
  useRenewMutation,
  useRestoreDeviceCalibrationMutation,
  useRoundsQuery,
  useSetKeepingMutation,
  useSetSchoolsMutation,
  useNoteEventMutation,
  useUndoRuleMutation,
  useUndoSiteChangeMutation,
  useInstrumentsQuery,
  useShelfQuery,
  useSiteQuery,
  useTakenFilesQuery,
  useStartTripMutation,
  useStartVisitMutation,
  useStartingQuery,
  useTripQuery,
  useVisitQuery,
  useWaitsQuery,
  useWhatIfQuery,
} = api

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
