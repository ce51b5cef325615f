import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from 'react'
import { CHART_MARGIN } from './chartMargin.ts'
import { panned, type Span, zoomed } from './useSpan.ts'

const ZOOM = 1.35

interface Looked {
  span: Span
  /** Of the drawing, px. */
  width: number
  onShow: (span: Span) => void
}

/** Keys, wheel, drag and two fingers move and zoom what a chart shows; `under` is the time below the pointer. */
export function useChartGestures({ span, width, onShow }: Looked) {
  const [under, setUnder] = useState<number | null>(null)
  const box = useRef<HTMLDivElement>(null)
  const drag = useRef<{ at: number; span: Span } | null>(null)
  /** Fingers on it, by where they are. */
  const fingers = useRef(new Map<number, number>())
  const latest = useRef({ span, onShow })
  latest.current = { span, onShow }
  useEffect(() => {
    const chart = box.current
    // React listens to wheels passively, and the page would scroll.
    const turn = (event: WheelEvent) => {
      event.preventDefault()
      const { left, width: wide } = (chart as HTMLDivElement).getBoundingClientRect()
      const about = Math.min(1, Math.max(0, (event.clientX - left) / wide))
      const now = latest.current
      now.onShow(zoomed(now.span, event.deltaY > 0 ? ZOOM : 1 / ZOOM, about))
    }
    chart?.addEventListener('wheel', turn, { passive: false })
    return () => chart?.removeEventListener('wheel', turn)
  }, [])
  const atOf = (event: PointerEvent) => {
    const { left, width: wide } = event.currentTarget.getBoundingClientRect()
    const px = ((event.clientX - left) / wide) * width - CHART_MARGIN.left
    return span.from + (px / (width - CHART_MARGIN.left - CHART_MARGIN.right)) * (span.to - span.from)
  }
  const lift = (event: PointerEvent) => {
    fingers.current.delete(event.pointerId)
    drag.current = null
  }
  const handlers = {
    onKeyDown: (event: KeyboardEvent) => {
      const next = spanAfter(event.key, span)
      if (!next) return
      event.preventDefault()
      onShow(next)
    },
    onPointerDown: (event: PointerEvent) => {
      fingers.current.set(event.pointerId, event.clientX)
      drag.current = { at: atOf(event), span }
      event.currentTarget.setPointerCapture(event.pointerId)
    },
    onPointerMove: (event: PointerEvent) => {
      const closer = pinched(fingers.current, event)
      if (closer !== null) return onShow(zoomed(span, closer, 0.5))
      if (!drag.current) return setUnder(atOf(event))
      const by = drag.current.at - atOf(event)
      const { from, to } = drag.current.span
      if (Math.abs(by) > 0) onShow(panned({ from, to }, by / (to - from)))
      drag.current = { at: atOf(event) + by, span: drag.current.span }
    },
    onPointerUp: lift,
    onPointerCancel: lift,
    onPointerLeave: () => setUnder(null),
  }
  return { box, under, handlers }
}

/** By how much two fingers moved together, or apart: below 1 for closer; null for one finger. */
function pinched(fingers: Map<number, number>, { pointerId, clientX }: PointerEvent): number | null {
  if (!fingers.has(pointerId)) return null
  const apart = () => {
    const [a, b] = [...fingers.values()]
    return a === undefined || b === undefined ? null : Math.max(20, Math.abs(a - b))
  }
  const before = apart()
  fingers.set(pointerId, clientX)
  const now = apart()
  return before === null || now === null ? null : before / now
}

/** Where a key leads; null for all others. */
function spanAfter(key: string, span: Span): Span | null {
  switch (key) {
    case 'ArrowLeft':
      return panned(span, -0.25)
    case 'ArrowRight':
      return panned(span, 0.25)
    case '+':
      return zoomed(span, 1 / ZOOM, 0.5)
    case '-':
      return zoomed(span, ZOOM, 0.5)
    default:
      return null
  }
}
