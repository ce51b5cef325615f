import { useAddPhotoMutation } from '../store/api.ts'
import { problemOf } from '../store/request.ts'
import { shrunkPhoto } from './shrunkPhoto.ts'

/** Keeps a photo, made smaller: resolves to its address, or to what stood against it. */
export function usePhoto() {
  const [keep, { isLoading }] = useAddPhotoMutation()
  const keepPhoto = async (file: File): Promise<{ photo: string } | { problem: string }> => {
    const small = await shrunkPhoto(file).catch(() => null)
    if (!small) return { problem: 'This file is no picture. Take a JPEG, a PNG or a WebP.' }
    const answer = await keep(small)
    return answer.data ? { photo: answer.data.photo } : { problem: problemOf(answer.error).message }
  }
  return { keepPhoto, keeping: isLoading }
}
