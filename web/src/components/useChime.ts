import { useEffect, useRef } from 'react'

/** Two rising tones, once each time `ring` turns true. Browsers stay silent until the page was touched. */
export function useChime(ring: boolean, enabled: boolean): void {
  const rang = useRef(ring)
  useEffect(() => {
    if (ring && !rang.current && enabled) play()
    rang.current = ring
  }, [ring, enabled])
}

/** Plays tones, one after the other. */
export function play(notes: readonly number[] = [660, 990]): void {
  const context = new AudioContext()
  if (context.state === 'suspended') return void context.close()
  notes.forEach((frequency, i) => {
    const from = context.currentTime + i * 0.16
    const tone = new OscillatorNode(context, { frequency })
    const volume = new GainNode(context, { gain: 0 })
    volume.gain.setValueAtTime(0.0001, from)
    volume.gain.exponentialRampToValueAtTime(0.25, from + 0.02)
    volume.gain.exponentialRampToValueAtTime(0.0001, from + 0.5)
    tone.connect(volume).connect(context.destination)
    tone.start(from)
    tone.stop(from + 0.55)
  })
  setTimeout(() => void context.close(), 1200)
}
