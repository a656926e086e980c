import { ref } from 'vue'
import { useDesk } from '~/stores/desk'
import { problemText } from '~/utils/api'

/**
 * What a form asks of the server: done and said so, or the trouble in words beside the form. Nothing is said
 * where `said` is empty: `what` has said it then.
 */
export function useGuard() {
  const desk = useDesk()
  const trouble = ref('')
  const complain = (error: unknown): void => {
    trouble.value = problemText(error)
  }
  async function guard(what: () => Promise<unknown>, said: string): Promise<void> {
    try {
      await what()
      trouble.value = ''
      if (said) desk.say({ text: said })
    } catch (error) {
      complain(error)
    }
  }
  return { trouble, guard, complain }
}
