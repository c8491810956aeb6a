import { useEventListener } from '@vueuse/core'

/** The main places of the workspace, each with the key that leads there from anywhere but a field. */
export const PLACES = [
  { key: '/', words: 'write the sentence', at: '' },
  { key: '.', words: 'find in the catalogue', at: '[aria-label="Find a measure or dimension"]' },
  { key: ',', words: 'the table', at: '[role=grid]' },
  { key: ';', words: 'the trail', at: '[aria-current=step]' },
  { key: '?', words: 'these keys', at: '' },
] as const

export type PlaceKey = (typeof PLACES)[number]['key']

/** The focus goes to a main place; it stays where it is while that is not shown. */
export function focusOn(key: PlaceKey): void {
  const place = PLACES.find((each) => each.key === key)
  if (place?.at) document.querySelector<HTMLElement>(place.at)?.focus()
}

/** Listens for the keys of the main places; what opens something is done by `open`. */
export function usePlaceKeys(open: (key: PlaceKey) => void): void {
  useEventListener('keydown', (event: KeyboardEvent) => {
    const isTyping =
      event.target instanceof HTMLElement &&
      event.target.closest('input, textarea, select, [role=menu], [role=dialog], .cm-editor')
    const place = PLACES.find((each) => each.key === event.key)
    if (!place || isTyping || event.ctrlKey || event.metaKey || event.altKey) return
    event.preventDefault()
    if (place.at) focusOn(place.key)
    else open(place.key)
  })
}
