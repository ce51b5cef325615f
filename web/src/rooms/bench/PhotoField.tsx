import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import type { FieldSpec } from '@frustum/core'
import { useState } from 'react'
import type { UseFormReturn } from 'react-hook-form'
import { usePhoto } from '../../components/usePhoto.ts'
import type { FormTexts } from './formTexts.ts'

/** A picture that is kept as soon as it is chosen; the form holds where it lies. */
export function PhotoField({ field, form }: { field: FieldSpec; form: UseFormReturn<FormTexts> }) {
  const { keepPhoto, keeping } = usePhoto()
  const [problem, setProblem] = useState('')
  const sha256 = String(form.watch(field.key) ?? '')
  const put = (photo: string) => form.setValue(field.key, photo, { shouldDirty: true })
  const choose = async (file: File | undefined) => {
    if (!file) return
    const kept = await keepPhoto(file)
    setProblem('problem' in kept ? kept.problem : '')
    if ('photo' in kept) put(kept.photo)
  }
  const address = sha256 && addressOf(ENDPOINTS.photo, { sha256 })
  return (
    <div className="max-w-full pb-6">
      <label className="block">
        <span className="block font-bold">{field.label} (optional)</span>
        <input
          type="file"
          accept="image/jpeg,image/png,image/webp"
          capture="environment"
          disabled={keeping}
          className="min-h-12 w-96 max-w-full content-center border border-[color:var(--line)] bg-base-100 px-3 py-2"
          onChange={(e) => void choose(e.target.files?.[0])}
        />
        <span className="block text-sm soft">
          {keeping ? 'It is being kept.' : 'It is made smaller, and where it was taken is left out.'}
        </span>
      </label>
      {address && (
        <p className="flex flex-wrap items-center gap-4 pt-2">
          <a href={address}>
            <img src={address} alt={field.label} className="max-h-48 max-w-full border border-[color:var(--line)]" />
          </a>
          <button type="button" className="slant slant-plain" onClick={() => put('')}>
            Without it
          </button>
        </p>
      )}
      <p role="alert" className="text-sm text-error">
        {problem}
      </p>
    </div>
  )
}
