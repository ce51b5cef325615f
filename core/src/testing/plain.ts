import { render } from '../quantities/render.ts'
import type { Quantity, Sentence } from '../quantities/sentence.ts'

/** A sentence as it is typed in a test: plain spaces and a hyphen for minus. */
export const plain = (sentence: Sentence | Quantity | undefined): string | undefined =>
  sentence === undefined
    ? undefined
    : render(typeof sentence === 'object' && 'value' in sentence ? [sentence] : sentence)
        .replaceAll('\u00a0', ' ')
        .replaceAll('\u2212', '-')
