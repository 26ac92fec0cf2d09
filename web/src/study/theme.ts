/** Light or dark: as the system has it, until somebody chooses. */
import { useLocalStorage } from '@vueuse/core'

export type Theme = 'as the system' | 'light' | 'dark'

export const theme = useLocalStorage<Theme>('row-tag-theme', 'as the system')
export const NEXT_THEME: Record<Theme, Theme> = { 'as the system': 'light', light: 'dark', dark: 'as the system' }
