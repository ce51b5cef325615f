import type { VisitLive } from '@frustum/contract'
import { celsius, mv, ph } from '../../parts/format.ts'
import { opinionWords } from './opinionWords.ts'

const TONES = { calm: 'soft', near: 'text-warning', stable: 'text-success', alarm: 'text-error' } as const

/** The value large enough to read at two metres, and beside it what the judge says, in a word. */
export function LiveReading({ live, judged }: { live: VisitLive; judged: boolean }) {
  const words = opinionWords(live)
  const inPh = live.unit === 'pH'
  const big = inPh ? ph(live.ph) : mv(live.millivolts)
  const isBlind = live.blindSince !== null
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
        <span
          className="text-[clamp(4rem,10vw,8rem)] max-sm:text-[17vw] leading-[0.9] font-bold tracking-tight whitespace-nowrap"
          data-testid="live-value"
        >
          {big}
        </span>
        <span className="pb-1 text-xl leading-snug max-sm:text-base">
          {live.unit}
          <br />
          <span className="soft">{celsius(live.temperature)}</span>
          {!inPh && (
            <>
              <br />
              <span className="soft whitespace-nowrap">shows {ph(live.ph)}</span>
            </>
          )}
        </span>
      </p>
      {judged && (
        <div className="flex flex-wrap items-baseline gap-x-4 pt-3" aria-live="polite">
          <p className={`text-3xl font-bold whitespace-nowrap ${TONES[words.tone]}`} data-testid="verdict">
            {words.word}
          </p>
          <p className="soft">
            {words.detail}{' '}
            {live.opinion && !isBlind && words.tone !== 'alarm' && `${Math.round(live.opinion.confidence)} % sure.`}
          </p>
        </div>
      )}
    </div>
  )
}
