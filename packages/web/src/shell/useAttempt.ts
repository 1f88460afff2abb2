import { ref, type Ref } from 'vue'
import { asRefused, type Refused } from './api.ts'

/** Something that a server may refuse: whether it is under way, what was refused of it last, and how to attempt it. */
export interface Attempt {
  readonly busy: Ref<boolean>
  readonly refused: Ref<Refused | null>
  attempt(work: () => Promise<unknown>): Promise<void>
}

export function useAttempt(): Attempt {
  const busy = ref(false)
  const refused = ref<Refused | null>(null)
  return {
    busy,
    refused,
    attempt: async (work) => {
      busy.value = true
      refused.value = null
      try {
        await work()
      } catch (error) {
        refused.value = asRefused(error)
      } finally {
        busy.value = false
      }
    },
  }
}
