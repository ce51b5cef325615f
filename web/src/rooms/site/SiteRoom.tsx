import { type PracticeTopic, WORKING_PRACTICES, type WorkingPractices } from '@frustum/core'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { Changes } from '../../components/Changes.tsx'
import { Fetching } from '../../components/Problem.tsx'
import { useSetSchoolsMutation, useSiteQuery, useUndoSiteChangeMutation } from '../../store/api.ts'
import { useMay } from '../../store/me.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { SignInOfSite } from '../people/SignInOfSite.tsx'
import { KeepingOfSite } from './KeepingOfSite.tsx'

/** Ways of working on which good operators differ: the site picks one of each, and the Bench speaks accordingly. */
export function SiteRoom() {
  const { data: site, error, refetch } = useSiteQuery()
  const [setSchools, { isLoading }] = useSetSchoolsMutation()
  const [undo, { isLoading: undoing }] = useUndoSiteChangeMutation()
  const { operator } = useAppSelector(actorOf)
  const lead = useMay('lead')
  if (!site) return <Fetching what="the site" error={error} onRetry={refetch} />
  const choose = async (topic: PracticeTopic, value: string) => {
    const answer = await setSchools({ operator, practices: { ...site.practices, [topic]: value } as WorkingPractices })
    if (answer.error) toast.error(problemOf(answer.error).message)
  }
  return (
    <div className="mx-auto w-full max-w-4xl px-5 py-6">
      <h1 className="text-2xl">{site.name}</h1>
      {lead && (
        <div className="grid gap-x-10 md:grid-cols-2">
          <section aria-label="Backup" className="border-b border-base-300 py-5">
            <h2 className="text-lg font-bold">Backup</h2>
            <p className="max-w-prose pt-1 pb-3 text-pretty">
              A copy of everything, made by itself every night, to a folder that you set.
            </p>
            <Link to="/site/backup" className="slant">
              Look after backups
            </Link>
          </section>
          <section aria-label="Who is told" className="border-b border-base-300 py-5">
            <h2 className="text-lg font-bold">Who is told</h2>
            <p className="max-w-prose pt-1 pb-3 text-pretty">
              Of alarms, and each morning of what is due, by e-mail or to another program.
            </p>
            <Link to="/site/told" className="slant">
              Set who is told
            </Link>
          </section>
          <SignInOfSite />
          {site.exists && <KeepingOfSite keeping={site.keeping} />}
        </div>
      )}
      <h2 className="pt-6 text-xl">How we work</h2>
      <p className="max-w-prose pt-1 soft">
        Good operators differ on these. Pick one of each; the steps of the Bench then speak your way. What is chosen
        holds for visits that begin from now on.{!lead && ' A lead sets it.'}
      </p>
      {(Object.entries(WORKING_PRACTICES) as [PracticeTopic, (typeof WORKING_PRACTICES)[PracticeTopic]][]).map(
        ([topic, { title, choices }]) => (
          <fieldset key={topic} disabled={!lead} className="border-b border-base-300 py-5">
            <legend className="float-left w-full pb-3 text-lg font-bold">{title}</legend>
            <div className="clear-both grid gap-3 sm:grid-cols-2 lg:grid-cols-3">
              {Object.entries(choices as Record<string, { label: string; reason: string }>).map(([value, choice]) => {
                const on = site.practices[topic] === value
                return (
                  <label
                    key={value}
                    className={`flex cursor-pointer gap-3 border p-3 ${on ? 'border-primary bg-secondary text-secondary-content' : 'border-[color:var(--line)]'}`}
                  >
                    <input
                      type="radio"
                      name={topic}
                      className="radio mt-1 border-[color:var(--line)] text-primary"
                      checked={on}
                      disabled={isLoading}
                      onChange={() => void choose(topic, value)}
                    />
                    <span>
                      <span className="block font-bold">{choice.label}</span>
                      <span className="block text-sm">{choice.reason}</span>
                    </span>
                  </label>
                )
              })}
            </div>
          </fieldset>
        ),
      )}
      <div className="pt-5">
        <Changes
          changes={lead ? site.changes : site.changes.map((c) => ({ ...c, undo: false }))}
          timeZone={site.timeZone}
          busy={undoing}
          onUndo={(id) => void undo({ id: String(id), operator })}
        />
      </div>
      <a href="/licenses" className="inline-flex min-h-11 items-center underline underline-offset-4 soft">
        Open-source licenses
      </a>
    </div>
  )
}
