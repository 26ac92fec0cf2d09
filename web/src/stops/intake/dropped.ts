/** Files with data, and one that was dropped where studies are chosen: it waits for the intake of the study that begins with it. */
import { shallowRef } from 'vue'

export const DATA_ENDINGS = '.csv,.tsv,.tab,.txt,.dat,.asc,.gz,.xlsx,.xlsm,.xlsb,.xls,.ods,.parquet'

/** Whether a file holds data rather than a document that describes them, by its name. */
export const isData = (file: File): boolean => DATA_ENDINGS.split(',').some((ending) => file.name.toLowerCase().endsWith(ending))

export const waiting = shallowRef<File | null>(null)

/** The file that waits, once. */
export function taken(): File | null {
  const file = waiting.value
  waiting.value = null
  return file
}
