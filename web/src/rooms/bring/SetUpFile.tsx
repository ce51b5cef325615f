import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { Download, FileSpreadsheet } from 'lucide-react'
import { useId, useState } from 'react'
import { plural } from '../../components/format.ts'
import { problemOf, useImportSetUpMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { useAppSelector } from '../../store/store.ts'

/** The whole set-up of another site, where there is no sensor yet. */
export function SetUpFile() {
  const [send, { isLoading }] = useImportSetUpMutation()
  const [said, setSaid] = useState<{ good: boolean; message: string; more: string } | null>(null)
  const { operator } = useAppSelector(actorOf)
  const id = useId()
  const read = async (chosen: File) => {
    let file: unknown
    try {
      file = JSON.parse(await chosen.text())
    } catch {
      setSaid({ good: false, message: `${chosen.name} is not readable JSON.`, more: 'Nothing was taken in.' })
      return
    }
    const answer = await send({ file, operator })
    if (answer.data) {
      setSaid({
        good: true,
        message: `${plural(answer.data.sensors, 'position')} taken in.`,
        more: 'They stand on Rig.',
      })
      return
    }
    const { message, detail, hint } = problemOf(answer.error)
    setSaid({ good: false, message, more: [detail, hint].filter(Boolean).join(' ') })
  }
  return (
    <section className="mt-8 border-t border-base-300 pt-4" aria-label="A set-up">
      <h2 className="text-lg">A set-up</h2>
      <p className="max-w-prose pt-1 pb-3">
        Places, devices, positions, sensors, people and shelf of a site as one file (JSON), taken in where there is no
        sensor yet. That of this site is saved here.
      </p>
      <div className="flex flex-wrap items-center gap-5">
        <label htmlFor={id} className="slant cursor-pointer">
          <FileSpreadsheet className="size-5" aria-hidden="true" /> Choose a set-up
        </label>
        <input
          id={id}
          type="file"
          accept="application/json,.json"
          className="sr-only"
          disabled={isLoading}
          onChange={(e) => {
            const [chosen] = e.target.files ?? []
            e.target.value = ''
            if (chosen) void read(chosen)
          }}
        />
        <a className="slant" href={addressOf(ENDPOINTS.exportSetUp, {})} download>
          <Download className="size-4" aria-hidden="true" /> Save that of this site
        </a>
      </div>
      {said && (
        <div
          role={said.good ? 'status' : 'alert'}
          className={`mt-4 border-l-4 bg-base-200 p-4 ${said.good ? 'border-success' : 'border-error'}`}
        >
          <p className="font-bold">{said.message}</p>
          <p>{said.more}</p>
        </div>
      )}
    </section>
  )
}
