import { Given, type Sheet, show } from '@frustum/core/reckoner'
import { useHotkeys } from 'react-hotkeys-hook'
import { toast } from 'sonner'
import { text } from '../../components/format.ts'
import { asText, matters } from './asText.ts'
import { GivenChoiceField, GivenNumberField, LinkedFieldRow } from './Fields.tsx'
import { Picture } from './Picture.tsx'
import { addressOf, type SheetState, useSheet } from './useSheet.ts'

async function copy(text: string, what: string): Promise<void> {
  try {
    await navigator.clipboard.writeText(text)
    toast.success(`${what} copied.`)
  } catch {
    toast.error('The browser did not let the text be copied. Nothing is lost: mark it on the page and copy it by hand.')
  }
}

/** One thing to work out: what is given, what hangs together, and how it comes about. */
export function SheetView({ sheet }: { sheet: Sheet }) {
  const state = useSheet(sheet)
  const { entries, result, shown } = state
  const stale = result === null
  const given = new Given(entries.given)
  const copyText = () => result && void copy(asText(sheet, entries, result, given), 'The sheet')
  const copyLink = () =>
    void copy(`${location.origin}${location.pathname}?${addressOf(entries).toString()}`, 'The link')
  useHotkeys('c', copyText)
  useHotkeys('l', copyLink)
  return (
    <article className="grid gap-x-10 gap-y-6 xl:grid-cols-[minmax(24rem,1fr)_minmax(20rem,26rem)]">
      <div>
        <h1 className="text-2xl">{sheet.title}</h1>
        <p className="max-w-prose pt-1 soft">{sheet.question}</p>
        {sheet.given.length > 0 && (
          <div className="grid items-end gap-x-6 pt-4 sm:grid-cols-2">
            {sheet.given
              .filter((f) => matters(f, given))
              .map((field) => (
                <GivenInput key={field.id} field={field} state={state} />
              ))}
          </div>
        )}
        {sheet.linked.length > 0 && (
          <section aria-label="Linked" className="spindle mt-5 pt-1">
            {sheet.linked.map((field) => (
              <LinkedFieldRow
                key={field.id}
                field={field}
                held={entries.held === field.id}
                heldText={entries.heldText}
                result={shown?.linked.find((l) => l.field.id === field.id)}
                stale={stale ? state.staleness : null}
                problem={state.problems[field.id]}
                readAs={state.readAs[field.id]}
                onHold={(text) => state.hold(field.id, text)}
              />
            ))}
          </section>
        )}
        <Outputs state={state} />
        <button type="button" className="no-print slant slant-plain mt-5 ml-1" onClick={state.reset}>
          Start over
        </button>
      </div>
      <aside className="min-w-0">
        {shown?.curve && <Picture curve={shown.curve} stale={stale} />}
        <section className={`pt-3 ${stale ? 'soft' : ''}`}>
          <h2 className="text-base">How</h2>
          <ul className="pt-1">
            {shown?.working.map((line) => (
              <li key={line} className="border-l-2 border-base-300 py-1 pl-3 font-mono text-sm break-words">
                {line}
              </li>
            ))}
          </ul>
          {shown?.remarks.map((line) => (
            <p key={text(line)} className="pt-2">
              {text(line)}
            </p>
          ))}
        </section>
        <dl className="pt-4 text-sm">
          <dt className="font-bold">Source</dt>
          <dd className="pb-2">{sheet.source}</dd>
          <dt className="font-bold">Range and certainty</dt>
          <dd>{sheet.range}</dd>
        </dl>
        <div className="no-print flex flex-wrap gap-4 pt-5 pl-1">
          <button type="button" className="slant slant-strong" disabled={stale} onClick={copyText}>
            Copy as text <kbd className="key">C</kbd>
          </button>
          <button type="button" className="slant" onClick={copyLink}>
            Copy link <kbd className="key">L</kbd>
          </button>
        </div>
      </aside>
    </article>
  )
}

function GivenInput({ field, state }: { field: Sheet['given'][number]; state: SheetState }) {
  const text = state.entries.given[field.id] ?? ''
  const onText = (next: string) => state.setGiven(field.id, next)
  if (field.kind === 'choice') return <GivenChoiceField field={field} value={text} onValue={onText} />
  return (
    <GivenNumberField
      field={field}
      text={text}
      problem={state.problems[field.id]}
      readAs={state.readAs[field.id]}
      onText={onText}
    />
  )
}

function Outputs({ state: { shown, result, staleness } }: { state: SheetState }) {
  if (!shown || shown.outputs.length === 0) return null
  return (
    <dl aria-live="polite" className={`mt-5 border-t border-base-300 ${result ? '' : 'soft'}`}>
      {shown.outputs.map(({ field, value, uncertainty }) => (
        <div key={field.id} className="flex items-baseline justify-between gap-4 border-b border-base-300 py-2">
          <dt>{field.label}</dt>
          <dd className="text-right">
            <output className="font-mono text-2xl font-bold">{show(value, field)}</output>{' '}
            <span>{field.unit || field.hint}</span>
            {uncertainty !== null && <span className="block text-sm soft">± {show(uncertainty, { figures: 2 })}</span>}
          </dd>
        </div>
      ))}
      {!result && <p className="pt-1 text-sm soft">{staleness}</p>}
    </dl>
  )
}
