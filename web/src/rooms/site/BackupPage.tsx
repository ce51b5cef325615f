import { type BackupView, backupSettingsBody } from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { yupResolver } from '@hookform/resolvers/yup'
import { useState } from 'react'
import { type Resolver, useForm } from 'react-hook-form'
import { toast } from 'sonner'
import { dayTime } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import {
  useBackupQuery,
  useMakeBackupMutation,
  useRestoreBackupMutation,
  useSetBackupMutation,
  useSiteQuery,
} from '../../store/api.ts'
import { useNow } from '../../store/clock.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'
import { PutBackFile, Restoring, usePuttingBack } from './PutBackFile.tsx'

/** Copies of the whole site: made, looked after, and put back. */
export function BackupPage() {
  const { data, error, refetch } = useBackupQuery(undefined, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  const putting = usePuttingBack()
  if (!data || !site) return <Fetching what="the backups" error={error} onRetry={refetch} />
  if (putting.restoring) return <Restoring of={putting.restoring} />
  return (
    <div className="mx-auto w-full max-w-4xl px-5 py-6">
      <h1 className="text-2xl">Backup of {site.name}</h1>
      <Standing backup={data} timeZone={site.timeZone} />
      <Files backup={data} timeZone={site.timeZone} putting={putting} />
      <Settings key={JSON.stringify(data.settings)} backup={data} />
      <section className="border-t border-base-300 py-5">
        <h2 className="text-lg font-bold">Put back a file</h2>
        <p className="max-w-prose pb-3 text-pretty soft">
          A backup that lies elsewhere takes the place of all that is here. What is here now is kept beside it, in the
          data folder.
        </p>
        <PutBackFile putting={putting} />
      </section>
      <section className="border-t border-base-300 py-5">
        <h2 className="text-lg font-bold">For other programs</h2>
        <p className="max-w-prose pb-3 text-pretty soft">
          All of it but passwords and other secrets, as JSON. It cannot be put back: that is what backups are for.
        </p>
        <a className="slant slant-plain" href={ENDPOINTS.everything.path} download>
          Everything as JSON
        </a>
      </section>
    </div>
  )
}

const LATE_MS = 2 * 86_400_000

function Standing({ backup, timeZone }: { backup: BackupView; timeZone: string }) {
  const [make, { isLoading }] = useMakeBackupMutation()
  const { operator } = useAppSelector(actorOf)
  const now = useNow(60_000)
  const [newest] = backup.files
  const late = !newest || now - newest.at > LATE_MS
  const go = async () => {
    const { error } = await make({ operator })
    if (!error) toast.success('Backup made and read back.')
    else toast.error(problemOf(error).message, { description: problemOf(error).hint })
  }
  return (
    <section className="py-4">
      <p className={`text-lg ${late ? 'border-l-4 border-warning bg-base-200 p-3' : ''}`}>
        {newest ? (
          <>
            Last good one: <strong>{dayTime(newest.at, timeZone)}</strong>.
          </>
        ) : (
          <strong>There is none yet.</strong>
        )}{' '}
        {backup.nextAt
          ? `The next is made by itself on ${dayTime(backup.nextAt, timeZone)}.`
          : 'None is made by itself.'}
      </p>
      {backup.problem && (
        <p role="alert" className="pt-2 text-error">
          {dayTime(backup.problem.at, timeZone)}: {backup.problem.text}
        </p>
      )}
      <p className="max-w-prose py-3 text-pretty soft">
        Each holds everything: records, photos, open visits, people and their passwords. It is read back and opened
        after it is made.{' '}
        {backup.sameDisk === true &&
          `They lie ${backup.settings.folder === '' ? 'beside the data' : `in ${backup.path}`}, on the same disk: when that fails, both are gone. Set a folder on another disk.`}
        {backup.sameDisk === null && `${backup.path} is not there now.`}
        {!backup.hasPassphrase && ' They are not locked: whoever has one can read all of it. Set a passphrase.'}
      </p>
      <button type="button" className="slant slant-strong" disabled={isLoading} onClick={() => void go()}>
        {isLoading ? 'Making it ...' : 'Back up now'}
      </button>
    </section>
  )
}

const megabytes = (bytes: number) => `${(bytes / 1e6).toFixed(1)} MB`

function Files({
  backup,
  timeZone,
  putting,
}: {
  backup: BackupView
  timeZone: string
  putting: ReturnType<typeof usePuttingBack>
}) {
  const [restore, { isLoading }] = useRestoreBackupMutation()
  const { operator } = useAppSelector(actorOf)
  const [chosen, setChosen] = useState<string | null>(null)
  const [passphrase, setPassphrase] = useState('')
  const [wrong, setWrong] = useState<string>()
  if (backup.files.length === 0) return null
  const go = async (file: string) => {
    const { data, error } = await restore({ operator, file, passphrase })
    if (data) putting.began(data)
    else {
      const { message, hint, fields } = problemOf(error)
      setWrong(fields?.passphrase ?? [message, hint].filter(Boolean).join(' '))
    }
  }
  return (
    <section className="border-t border-base-300 py-5">
      <h2 className="pb-2 text-lg font-bold">What is there</h2>
      <ul>
        {backup.files.map((f) => (
          <li key={f.file} className="border-b border-base-300 py-1">
            <div className="flex flex-wrap items-center gap-x-6">
              <span className="w-36 font-mono">{dayTime(f.at, timeZone)}</span>
              <span className="w-20 text-right font-mono soft">{megabytes(f.bytes)}</span>
              <span className="flex-1 soft">{f.locked ? 'locked' : 'not locked'}</span>
              <a
                className="min-h-11 content-center underline underline-offset-4"
                href={addressOf(ENDPOINTS.backupFile, { file: f.file })}
                download
              >
                Download
              </a>
              <button
                type="button"
                className="slant slant-plain"
                aria-expanded={chosen === f.file}
                onClick={() => {
                  setWrong(undefined)
                  setChosen(chosen === f.file ? null : f.file)
                }}
              >
                Put back
              </button>
            </div>
            {chosen === f.file && (
              <div className="my-3 border-l-4 border-warning bg-base-200 p-4">
                <p className="max-w-prose pb-3 text-pretty">
                  All that was recorded since {dayTime(f.at, timeZone)} leaves the site. It is kept beside it, in the
                  data folder, until somebody deletes it. Everybody is signed out, and the server starts again.
                </p>
                {f.locked && (
                  <Field
                    label="Passphrase"
                    unit=""
                    wide
                    type="password"
                    error={wrong}
                    value={passphrase}
                    onChange={(e) => setPassphrase(e.target.value)}
                  />
                )}
                {!f.locked && wrong && (
                  <p role="alert" className="pb-2 text-error">
                    {wrong}
                  </p>
                )}
                <button type="button" className="slant" disabled={isLoading} onClick={() => void go(f.file)}>
                  {isLoading ? 'Looking at it ...' : 'Put it back'}
                </button>
              </div>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

type Typed = {
  folder: string
  nightly: boolean
  hour: number
  keepDays: number
  keepWeeks: number
  keepMonths: number
  passphrase: string
}

function Settings({ backup }: { backup: BackupView }) {
  const [set, { isLoading }] = useSetBackupMutation()
  const { operator } = useAppSelector(actorOf)
  const [unlock, setUnlock] = useState(false)
  const form = useForm<Typed>({
    resolver: yupResolver(backupSettingsBody.omit(['operator'])) as never as Resolver<Typed>,
    defaultValues: { ...backup.settings, passphrase: '' },
  })
  const { errors } = form.formState
  const submit = form.handleSubmit(async ({ passphrase, ...settings }) => {
    const word = unlock ? { passphrase: '' } : passphrase === '' ? {} : { passphrase }
    const { error } = await set({ operator, ...settings, ...word })
    if (!error) {
      toast.success('Saved.')
      return
    }
    const { fields, message, hint } = problemOf(error)
    for (const [key, text] of Object.entries(fields ?? {})) form.setError(key as keyof Typed, { message: text })
    if (!fields) toast.error(message, { description: hint })
  })
  const count = (key: 'keepDays' | 'keepWeeks' | 'keepMonths' | 'hour', label: string, unit: string) => (
    <Field
      label={label}
      unit={unit}
      inputMode="numeric"
      error={errors[key]?.message}
      {...form.register(key, { valueAsNumber: true })}
    />
  )
  return (
    <form
      noValidate
      aria-label="How backups are made"
      className="border-t border-base-300 py-5"
      onSubmit={(e) => void submit(e)}
    >
      <h2 className="pb-2 text-lg font-bold">How they are made</h2>
      <Field
        label="Folder, on another disk"
        unit=""
        wide
        hint="The whole path. Empty: beside the data."
        error={errors.folder?.message}
        {...form.register('folder')}
      />
      <label className="flex min-h-11 items-center gap-3 py-2">
        <input type="checkbox" className="checkbox border-[color:var(--line)]" {...form.register('nightly')} />
        By itself every night
      </label>
      <div className="flex flex-wrap gap-x-6">
        {count('hour', 'At', 'o’clock')}
        {count('keepDays', 'Keep one of each of', 'days')}
        {count('keepWeeks', 'then of', 'weeks')}
        {count('keepMonths', 'then of', 'months')}
      </div>
      <Field
        label={backup.hasPassphrase ? 'New passphrase' : 'Passphrase (optional)'}
        unit=""
        wide
        type="password"
        autoComplete="new-password"
        disabled={unlock}
        hint="Without it nobody can open them, you neither. Keep it in another place."
        error={errors.passphrase?.message}
        {...form.register('passphrase')}
      />
      {backup.hasPassphrase && (
        <label className="flex min-h-11 items-center gap-3">
          <input
            type="checkbox"
            className="checkbox border-[color:var(--line)]"
            checked={unlock}
            onChange={(e) => setUnlock(e.target.checked)}
          />
          Lock them no longer
        </label>
      )}
      <button type="submit" className="slant mt-3" disabled={isLoading}>
        Save
      </button>
    </form>
  )
}
