import { describe, expect, it } from 'vitest'

import { settingOf } from '@/sheet/setting'

describe('how a line of a document is set', () => {
  it.each([
    ['## Your plot', 'heading', 2, '', ['Your plot']],
    ['--- page 12 ---', 'page', 0, '', ['page 12']],
    ['|---|:--:|', 'ruler', 0, '', ['']],
    ['| tenure | own \\| rented | 1<br>2 |', 'row', 0, '', ['tenure', 'own | rented', '1\n2']],
    ['| 3 | tenure | | How the plot is held at present | 1 own |', 'flow', 0, '', ['3', 'tenure', 'How the plot is held at present', '1 own']],
    ['**tenure**', 'term', 0, '', ['tenure']],
    [': How held', 'meaning', 1, '', ['How held']],
    ['    - Beans', 'item', 2, '•', ['Beans']],
    ['  Q3\tHow long is it?', 'item', 1, 'Q3', ['How long is it?']],
    ['**shed** Has a shed', 'plain', 0, '', ['shed Has a shed']],
    ['tenure   How held  1 = own', 'plain', 0, '', ['tenure   How held  1 = own']],
    ['', 'plain', 0, '', ['']],
  ] as const)('%s', (line, kind, depth, mark, cells) => {
    expect(settingOf(line)).toEqual({ kind, depth, mark, cells })
  })
})
