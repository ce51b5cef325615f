import type { VisitLive } from '@frustum/contract'
import { celsius, mv, ph } from '../../parts/format.ts'
import { opinionWords } from './opinionWords.ts'

const TONES = { calm: 'soft', near: 'text-accent', stable: 'text-success', alarm: 'text-error' } as const

/** The value large enough to read at two metres, and beside it what the judge says, in a word. */
export function LiveReading({ live, judged }: { live: VisitLive; judged: boolean }) {
  const words = opinionWords(live)
  const inPh = live.unit === 'pH'
  const big = inPh ? ph(live.ph) : mv(live.millivolts)
  const isBlind = live.blindSince !== null
  return (
    <div
      className={`flex flex-wrap items-end justify-between gap-x-8 gap-y-3 border-l-8 py-3 pl-4 ${
        judged && words.tone === 'stable' ? 'stable-sweep border-success bg-success/12' : judged && words.tone === 'alarm' ? 'border-error' : 'border-transparent'
      }`}
    >
      <p className={`flex items-end gap-4 ${isBlind ? 'opacity-40' : ''}`}>
        <span className="text-[clamp(4rem,11vw,8rem)] leading-[0.9] font-bold tracking-tight whitespace-nowrap" data-testid="live-value">
          {big}
        </span>
        <span className="pb-1 text-xl leading-snug">
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
        <div className="min-w-56 max-w-80 flex-1 text-right max-sm:text-left" aria-live="polite">
          <p className={`text-3xl font-bold ${TONES[words.tone]}`} data-testid="verdict">
            {words.word}
          </p>
          <p className="soft">{words.detail}</p>
          {live.opinion && !isBlind && <p className="soft">{Math.round(live.opinion.confidence)} % sure</p>}
        </div>
      )}
    </div>
  )
}
