/** Which steps of the diary are wanted; what is empty does not matter. */
export interface Wanted { variable: string; kind: string; by: string; day: string }
