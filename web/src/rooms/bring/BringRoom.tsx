import { Link } from 'react-router'
import { useSiteQuery } from '../../store/api.ts'
import { ListOfSensors } from './ListOfSensors.tsx'
import { LogOfReadings } from './LogOfReadings.tsx'
import { PastCalibrations } from './PastCalibrations.tsx'
import { SetUpFile } from './SetUpFile.tsx'
import { TakenFiles } from './TakenFiles.tsx'

/** What people have already: a list of their sensors, what they wrote down of them, or records of another Frustum. */
export function BringRoom() {
  const { data: site } = useSiteQuery()
  return (
    <div className="mx-auto w-full max-w-5xl px-5 py-6">
      <h1 className="text-2xl">Bring in what you have</h1>
      {site && !site.exists ? (
        <p className="max-w-prose pt-3 text-lg">
          First the name of the site and yours, so that what comes in has its place and its author.{' '}
          <Link to="/set-up" className="font-bold underline underline-offset-4">
            Set up your site
          </Link>
        </p>
      ) : (
        <>
          <ListOfSensors />
          <PastCalibrations />
          <LogOfReadings />
        </>
      )}
      <SetUpFile />
      <section className="mt-8 border-t border-base-300 pt-4">
        <h2 className="text-lg">Records of another Frustum</h2>
        <p className="max-w-prose pt-1">
          A file of records (JSON) that was exported on a Ledger is taken in on the{' '}
          <Link to="/ledger" className="underline underline-offset-4">
            Ledger
          </Link>{' '}
          of this one.
        </p>
      </section>
      <TakenFiles />
    </div>
  )
}
