import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { Download } from 'lucide-react'
import { plural } from '../../components/format.ts'
import { TakeInFile } from '../../components/TakeInFile.tsx'
import { useImportSetUpMutation } from '../../store/api.ts'

/** The whole set-up of another site, where there is no sensor yet. */
export function SetUpFile() {
  const [send] = useImportSetUpMutation()
  return (
    <section className="mt-8 border-t border-base-300 pt-4" aria-label="A set-up">
      <h2 className="text-lg">A set-up</h2>
      <p className="max-w-prose pt-1 pb-3">
        Places, devices, positions, sensors, people and shelf of a site as one file (JSON), taken in where there is no
        sensor yet. That of this site is saved here.
      </p>
      <div className="flex flex-wrap items-center gap-5">
        <TakeInFile
          label="Choose a set-up"
          field="A set-up of another site"
          send={(file) => send(file)}
          says={({ sensors }, taken) => ({
            message: `${plural(sensors, 'position')} ${taken ? 'taken in' : 'to take in'}.`,
            more: taken ? 'They stand on Rig.' : 'The file is whole.',
            takes: true,
          })}
        />
        <a className="slant" href={addressOf(ENDPOINTS.exportSetUp, {})} download>
          <Download className="size-4" aria-hidden="true" /> Save that of this site
        </a>
      </div>
    </section>
  )
}
