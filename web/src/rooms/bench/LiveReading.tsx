import type { VisitLive } from '@frustum/contract'
import { asRead, celsius, fixed, text } from '../../components/format.ts'
import { opinionWords } from './opinionWords.ts'

const TONES = { calm: 'soft', near: 'text-warning', stable: 'text-success', alarm: 'text-error' } as const

interface LiveReadingProps {
  live: VisitLive
  judged: boolean
  /** Whether it is read off a display by eye: then nothing is sure, and nothing is put into other units. */
  typed?: boolean
}

/** The value large enough to read at two metres, and beside it what the judge says, in a word. */
export function LiveReading({ live, judged, typed = false }: LiveReadingProps) {
  const words = opinionWords(live)
  const isBlind = live.blindSince !== null
  // A number that is typed off a display stays as it stands there.
  const read = typed ? { ...live, of: (value: number) => value } : asRead(live)
  const big = live.value === null ? '–' : fixed(read.of(live.value), read.decimals)
  // Long numbers get smaller digits, so that they stay in one line on a phone.
  const size =
    big.length > 7
      ? 'text-[clamp(2.4rem,6vw,4.6rem)] max-sm:text-[9vw]'
      : big.length > 5
        ? 'text-[clamp(3.5rem,8.5vw,6.8rem)] max-sm:text-[13vw]'
        : 'text-[clamp(4rem,10vw,8rem)] max-sm:text-[17vw]'
  return (
    <div
      className={`border-l-8 py-2 pl-4 max-sm:pl-2 ${
        judged && words.tone === 'stable'
          ? 'stable-sweep border-success bg-success/12'
          : judged && words.tone === 'alarm'
            ? 'border-error'
            : 'border-transparent'
      }`}
    >
      <p className={`flex items-end gap-4 max-sm:gap-2 ${isBlind ? 'opacity-40' : ''}`}>
        <span className={`${size} leading-[0.9] font-bold tracking-tight whitespace-nowrap`} data-testid="live-value">
          {big}
        </span>
        <span className="pb-1 text-xl leading-snug max-sm:text-base">
          {read.unit}
          {live.unit !== '°C' && (
            <>
              <br />
              <span className="soft">{celsius(live.temperature)}</span>
            </>
          )}
          {live.shown !== null && (
            <>
              <br />
              <span className="soft sm:whitespace-nowrap">
                shows {text({ value: live.shown, unit: live.shownUnit, decimals: live.shownDecimals })}
              </span>
            </>
          )}
        </span>
      </p>
      {judged && (
        <div className="flex flex-wrap items-baseline gap-x-4 pt-3" aria-live="polite">
          <p className={`text-3xl font-bold whitespace-nowrap ${TONES[words.tone]}`} data-testid="verdict">
            {words.word}
          </p>
          {words.also && <p className="text-xl font-bold">{words.also}</p>}
          <p className="soft">
            {words.detail}{' '}
            {!typed &&
              live.opinion &&
              !isBlind &&
              words.tone !== 'alarm' &&
              `${Math.round(live.opinion.confidence)} % sure.`}
          </p>
        </div>
      )}
    </div>
  )
}
