import type { ProbeView } from '@frustum/contract'
import { decimalMark } from '@frustum/contract/decimalMark'
import { readTypedNumber } from '@frustum/core'
import { type FormEvent, useState } from 'react'
import { toast } from 'sonner'
import { day, fixed } from '../../components/format.ts'
import { useReadHourMeterMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'

/** What the hour meter of the pump, the lamp or the line showed, and a place to enter what it shows now. */
export function HourMeter({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const { operator } = useAppSelector(actorOf)
  const [typed, setTyped] = useState('')
  const [problem, setProblem] = useState<string>()
  const [backwards, setBackwards] = useState(false)
  const [newMeter, setNewMeter] = useState(false)
  const [keep, { isLoading }] = useReadHourMeterMutation()
  const counted = probe.figure.policy.hoursCounted
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    const hours = readTypedNumber(typed, decimalMark())
    if (!hours.ok || hours.value < 0) {
      setProblem('Type the hours that the meter shows.')
      return
    }
    const answer = await keep({ position: probe.position, operator, hours: hours.value, newMeter })
    if (answer.error) {
      const why = problemOf(answer.error)
      setProblem(why.fields?.hours ?? why.message)
      setBackwards(why.code === 'meter-runs-backwards')
      return
    }
    setTyped('')
    setProblem(undefined)
    setBackwards(false)
    setNewMeter(false)
    toast.success('The hours are kept.')
  }
  return (
    <section aria-label="Hour meter">
      <h2 className="pb-1 text-base soft">Hour meter</h2>
      <p>
        {counted
          ? `${fixed(counted.sinceVisit, 0)} h in use since the last visit, of late ${fixed(counted.perDay, 1)} h a day.`
          : 'Two readings of its meter, half a day or more apart, and the hours in use are counted.'}
      </p>
      <form className="pt-2" onSubmit={(e) => void submit(e)}>
        <Field label="It shows" unit="h" error={problem} value={typed} onChange={(e) => setTyped(e.target.value)} />
        {backwards && (
          <label className="flex min-h-11 items-center gap-2">
            <input type="checkbox" checked={newMeter} onChange={(e) => setNewMeter(e.target.checked)} />
            The meter was changed
          </label>
        )}
        <button type="submit" className="slant" disabled={isLoading}>
          Save hours
        </button>
      </form>
      {probe.hourMeter.length > 0 && (
        <ul className="pt-2 text-sm soft">
          {probe.hourMeter.map((r) => (
            <li key={r.at}>
              {day(r.at, timeZone)}: <span className="font-mono">{fixed(r.hours, 1)} h</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}
