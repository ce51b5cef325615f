import { decisionInfinitive } from '../judgement/decision.ts'
import { type CapturedReading, isDisplayAlone } from '../measurement/capturedReading.ts'
import { parametersSentence } from '../measurement/parametersSentence.ts'
import type { TemperatureSource } from '../measurement/temperatureSource.ts'
import { tellsSignal } from '../procedures/heldCalibration.ts'
import { givenParameters } from '../procedures/pastProcedure.ts'
import type { GivenCalibration, VisitState } from '../procedures/procedure.ts'
import type { FieldSpec, FormValue, Step } from '../procedures/step.ts'
import { shownQuantity, signalQuantity } from '../procedures/words.ts'
import { celsius, exactly, quantity, type Sentence, say } from '../quantities/sentence.ts'
import type { VisitEntry } from './visitReducer.ts'

/**
 * A line of the record as a sentence.
 * @param steps all that were on the ladder at any time, by key
 */
export function entrySentence(entry: VisitEntry, steps: ReadonlyMap<string, Step>, state: VisitState): Sentence {
  const name = (key: string) => steps.get(key)?.short ?? key
  switch (entry.type) {
    case 'done':
      return `${name(entry.step)}: done`
    case 'skipped':
      return `${name(entry.step)}: skipped, "${entry.reason}"`
    case 'captured': {
      const early = entry.reading.earlyReason ? `, taken early: "${entry.reading.earlyReason}"` : ''
      return say`${name(entry.step)}: ${readingSentence(entry.reading, state)}, ${celsius(entry.reading.temperature)}${temperatureSentence(entry.reading.temperatureFrom)}${early}`
    }
    case 'typed': {
      const at = say`${celsius(entry.temperature)}${temperatureSentence(entry.temperatureFrom)}`
      const still = entry.still ? ', it stood still' : ''
      const shown = entry.shown === undefined ? '' : say`, display ${shownQuantity(state, entry.shown)}`
      return say`${name(entry.step)}: typed ${typedQuantity(state, entry.value)}${shown} at ${at}${still}`
    }
    case 'filled': {
      const fields = steps.get(entry.step)?.fields
      return Object.entries(entry.values)
        .map(([key, value]) =>
          fieldSentence(
            fields?.find((f) => f.key === key),
            key,
            value,
          ),
        )
        .reduce<Sentence>((line, one, i) => (i === 0 ? say`${line}: ${one}` : say`${line}, ${one}`), name(entry.step))
    }
    case 'waiting':
      return say`${name(entry.step)}: begun, ${quantity(entry.minutes, 'min', 0)}`
    case 'redo':
      return `${name(entry.step)}: to be ${entry.keeps ? 'read once more, both counting' : 'taken again'}, "${entry.reason}"`
    case 'decided': {
      const infinitive = (decision: typeof entry.decision) =>
        decisionInfinitive(decision, steps.get(entry.step)?.kind === 'verdict')
      const otherwise =
        entry.decision === entry.proposed ? ', as proposed' : `; proposed was to ${infinitive(entry.proposed)}`
      return `${name(entry.step)}: decided to ${infinitive(entry.decision)}${otherwise}${entry.note ? `, "${entry.note}"` : ''}`
    }
    case 'applied':
      return givenSentence(entry, state)
    case 'overridden':
      return `Went on although ${entry.rule} was the rule: "${entry.reason}"`
    case 'taken-over':
      return `Taken over from ${entry.from}`
    case 'abandoned':
      return `Ended without a result: "${entry.reason}"`
  }
}

/** A number that was typed, on the scale of what was read. */
const typedQuantity = (state: VisitState, value: number) =>
  state.setup.shows === 'signal' && state.kind.signalDisplay
    ? quantity(value, state.kind.signalDisplay.unit, state.kind.signalDisplay.decimals)
    : shownQuantity(state, value)

/** What the device computes with since, and how that is known. */
function givenSentence({ way, characteristic, readBack, shownAfter }: GivenCalibration, state: VisitState): Sentence {
  const numbers = readBack ? parametersSentence(state.model, characteristic) : givenParameters(state, characteristic)
  const given =
    way === 'noted'
      ? say`Calibrated to ${numbers}, as far as it was noted`
      : way === 'key'
        ? numbers === ''
          ? 'Calibrated itself by its own key'
          : say`Calibrated itself by its own key: ${numbers}${readBack ? ', read back' : ', worked out from what it showed before'}`
        : say`Given to the device ${way === 'link' ? 'over the link' : 'by hand'}: ${numbers}${readBack ? ', read back' : ''}`
  if (!shownAfter) return given
  const reason = shownAfter.reason ? ` ("${shownAfter.reason}")` : ''
  return say`${given}. It shows ${exactly(shownAfter.value, shownAfter.unit)} then${reason}`
}

/** Where a temperature comes from, where that is not the device itself. */
function temperatureSentence(source: TemperatureSource | undefined): string {
  switch (source?.from) {
    case 'thermometer':
    case 'sensor':
      return ` by ${source.name}`
    case 'fixed':
      return ' fixed in the device'
    case 'earlier':
      return ' as before, not read again'
    case 'usual':
      return ', the usual one, not read'
    default:
      return ''
  }
}

/** What was read, and what was only worked out from it. */
function readingSentence({ source, signal, shown }: CapturedReading, state: VisitState): Sentence {
  const worth = signalQuantity(state, signal)
  if (shown === null) return say`${worth}`
  const display = say`shows ${shownQuantity(state, shown)}`
  if (!tellsSignal(state.setup, { source })) return display
  // Where the display is the signal there is nothing to work out.
  if (source === 'line' || state.kind.signalDisplay === null) return say`${worth}, ${display}`
  return isDisplayAlone(source)
    ? say`${display}, which is worth ${worth}`
    : say`${worth}, ${display} (one of the two may have been worked out)`
}

/** What was typed into a field, under the name that stood beside it. */
function fieldSentence(field: FieldSpec | undefined, key: string, value: FormValue): Sentence {
  // What nobody here named stands as it was written.
  const name = field ? field.label.toLowerCase() : key
  const label = field?.row ? say`${field.row}, ${name}` : name
  if (typeof value === 'number') return say`${label} ${exactly(value, field?.unit)}`
  return say`${label} ${field?.choices?.find((c) => c.value === value)?.label ?? String(value)}`
}
