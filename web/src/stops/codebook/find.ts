/** Finding tags by name, label, question wording, or a name they had before. */
import type { TagStrip } from '@/api/client'

/** The tags that hold every word of a text somewhere. */
export function matching(tags: TagStrip[], text: string): TagStrip[] {
  const words = text.trim().toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return tags
  return tags.filter((tag) => {
    const held = [tag.name, tag.label, tag.question, ...tag.former].join(' ').toLowerCase()
    return words.every((word) => held.includes(word))
  })
}
