import type { BringLogOptions, BringOptions, BringPastOptions, Subject } from '@frustum/contract'
import { type AnswerOf, addressOf, ENDPOINTS, PASSPHRASE_HEADER } from '@frustum/contract/endpoints'
import { knowOwnStandards } from '@frustum/core'
import { createApi } from '@reduxjs/toolkit/query/react'
import { followClock, followZone } from './clock.ts'
import { endpointBuilders, OF_THE_SITE, TAGS } from './endpointBuilders.ts'
import { query, type Sent, send } from './request.ts'
import type { Acting, VisitAction } from './visitAction.ts'

interface SeriesOf {
  position: string
  from: number
  to: number
  most: number
  ordinary?: boolean
}

/** Fetched again for another person, who may see other things. */
const ALL_BUT_ME = TAGS.filter((tag) => tag !== 'me')

export const api = createApi({
  baseQuery: query,
  tagTypes: TAGS,
  // One line for each endpoint: the list is long, and there is nothing in it to take apart.
  endpoints: (build) => {
    const { read, readWhole, change, changeShown, bringSheet, takeIn } = endpointBuilders(build, (name, key, answer) =>
      api.util.upsertQueryData(name, key as never, answer as never),
    )
    return {
      me: readWhole(ENDPOINTS.me, ['me']),
      signIn: changeShown(ENDPOINTS.signIn, 'me', ALL_BUT_ME),
      signOut: changeShown(ENDPOINTS.signOut, 'me', ALL_BUT_ME),
      switchPerson: changeShown(ENDPOINTS.switchPerson, 'me', ALL_BUT_ME),
      askSignIn: changeShown(ENDPOINTS.askSignIn, 'me', ALL_BUT_ME),
      setPassword: changeShown(ENDPOINTS.setPassword, 'me'),
      setPin: changeShown(ENDPOINTS.setPin, 'me'),
      setReader: changeShown(ENDPOINTS.setReader, 'me', ['site']),
      givePassword: changeShown(ENDPOINTS.givePassword, 'me', ['rig']),
      siteChanges: build.query<AnswerOf<typeof ENDPOINTS.siteChanges>, number | null>({
        query: (before) => addressOf(ENDPOINTS.siteChanges, {}, before ? { before } : {}),
        providesTags: ['site'],
      }),

      backup: readWhole(ENDPOINTS.backup, ['backup']),
      makeBackup: changeShown(ENDPOINTS.makeBackup, 'backup', ['rounds']),
      setBackup: changeShown(ENDPOINTS.setBackup, 'backup', ['rounds', 'site']),
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
      releaseHold: changeShown(ENDPOINTS.releaseHold, 'holds'),
      find: change(ENDPOINTS.find),
      finders: readWhole(ENDPOINTS.finders, []),
      finder: read(ENDPOINTS.finder, (id: string) => ({ id })),
      look: changeShown(ENDPOINTS.look, 'finder'),
      stopFinder: changeShown(ENDPOINTS.stopFinder, 'finder'),
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
      changeRules: changeShown(ENDPOINTS.changeRules, 'probe', ['rounds', 'plan']),
      undoRule: changeShown(ENDPOINTS.undoRule, 'probe', ['rounds', 'plan']),
      answerTest: changeShown(ENDPOINTS.answerTest, 'probe', ['rounds']),
      noteEvent: changeShown(ENDPOINTS.noteEvent, 'probe', ['rounds', 'plan']),
      confirmCause: changeShown(ENDPOINTS.confirmCause, 'probe', ['rounds']),
      readHourMeter: changeShown(ENDPOINTS.readHourMeter, 'probe', ['rounds', 'plan']),
      restoreDeviceCalibration: changeShown(ENDPOINTS.restoreDeviceCalibration, 'probe', ['rounds', 'plan']),
      exclude: changeShown(ENDPOINTS.exclude, 'probe', ['rounds', 'plan']),
      past: read(ENDPOINTS.past, (of: { position: string; visit: string }) => of),
      series: build.query<AnswerOf<typeof ENDPOINTS.series>, SeriesOf>({
        query: ({ position, from, to, most, ordinary }) =>
          `${addressOf(ENDPOINTS.series, { position })}?from=${from}&to=${to}&most=${most}${ordinary ? '&ordinary' : ''}`,
      }),

      visit: read(ENDPOINTS.visit, (id: string) => ({ id })),
      startVisit: changeShown(ENDPOINTS.startVisit, 'visit', ['rounds', 'waits', 'trip']),
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
      startTrip: changeShown(ENDPOINTS.startTrip, 'trip', ['rounds']),
      endTrip: changeShown(ENDPOINTS.endTrip, 'trip', ['rounds']),

      plan: readWhole(ENDPOINTS.plan, ['plan']),
      movePlan: changeShown(ENDPOINTS.movePlan, 'plan'),
      renewCalendar: changeShown(ENDPOINTS.renewCalendar, 'plan'),
      renew: changeShown(ENDPOINTS.renew, 'plan'),

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
      addInstrument: changeShown(ENDPOINTS.addInstrument, 'instruments', ['rig']),
      addLot: changeShown(ENDPOINTS.addLot, 'shelf'),
      actOnLot: changeShown(ENDPOINTS.actOnLot, 'shelf'),

      report: build.query<AnswerOf<typeof ENDPOINTS.report>, Readonly<Record<string, string>>>({
        query: (asked) => addressOf(ENDPOINTS.report, {}, asked),
        providesTags: ['ledger'],
      }),
      ledger: build.query<AnswerOf<typeof ENDPOINTS.ledger>, number | null>({
        query: (before) => addressOf(ENDPOINTS.ledger, {}, before ? { before } : {}),
        providesTags: ['ledger'],
      }),
      record: read(ENDPOINTS.record, (id: string) => ({ id })),
      correct: changeShown(ENDPOINTS.correct, 'record', ['ledger']),
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
