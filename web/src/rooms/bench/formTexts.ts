/** What stands in the fields of a form, by key. */
export type FormTexts = Record<string, string | boolean>
