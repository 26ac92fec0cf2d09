/** The page of all keys: opened by a key, and by the finder. */
import { ref, type Ref } from 'vue'

const open = ref(false)

/** Whether it is open. */
export const useKeysPage = (): Ref<boolean> => open
