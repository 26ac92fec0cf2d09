import { describe, expect, it } from 'vitest'
import { nextTick, ref } from 'vue'

import { useDraft } from '@/parts/draft'

describe('text under somebody’s hands', () => {
  it('follows its value until somebody types', async () => {
    const value = ref('13')
    const { text } = useDraft(() => value.value)
    value.value = '14'
    await nextTick()
    expect(text.value).toBe('14')
    text.value = '1'
    value.value = '15'
    await nextTick()
    expect(text.value).toBe('1')
  })

  it('follows again once it was kept, in whatever words', async () => {
    const value = ref('')
    const draft = useDraft(() => value.value)
    draft.text.value = ' 0 to 80 '
    draft.agree('0 to 80')
    value.value = '0 to 80'
    await nextTick()
    value.value = 'from 18'
    await nextTick()
    expect(draft.text.value).toBe('from 18')
  })

  it('goes back to what stands there now, not to what stood there before', async () => {
    const value = ref('a')
    const draft = useDraft(() => value.value)
    draft.text.value = 'mine'
    value.value = 'theirs'
    await nextTick()
    draft.restore()
    expect(draft.text.value).toBe('theirs')
  })
})
