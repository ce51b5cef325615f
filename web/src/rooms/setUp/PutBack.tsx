import { PutBackFile, Restoring, usePuttingBack } from '../site/PutBackFile.tsx'

/** The way in for one who has a backup, as on a new machine. */
export function PutBack() {
  const putting = usePuttingBack()
  if (putting.restoring) return <Restoring of={putting.restoring} />
  return (
    <div className="mx-auto w-full max-w-3xl px-5 py-8">
      <h1 className="text-2xl">Put back a backup</h1>
      <p className="max-w-prose pt-1 pb-5 text-lg text-pretty soft">
        All of the site comes back as it was: records, photos, open visits, people and their passwords.
      </p>
      <PutBackFile putting={putting} />
    </div>
  )
}
