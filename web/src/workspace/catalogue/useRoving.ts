import { ref, type Ref } from 'vue'

const ENTRY = '[data-entry]'

/** One Tab stop for a list: the arrow keys go through its entries, left and right fold and unfold. */
export function useRoving(list: Ref<HTMLElement | null>) {
  /** Whether one of the entries has the focus: then the list itself is no stop, so that Tab leads on and back out. */
  const isInside = ref(false)
  let latest: HTMLElement | null = null

  function entries(): HTMLElement[] {
    return [...(list.value?.querySelectorAll<HTMLElement>(ENTRY) ?? [])]
  }

  function go(to: HTMLElement | undefined): void {
    to?.focus()
    to?.scrollIntoView({ block: 'nearest' })
  }

  function enter(): void {
    const all = entries()
    go(latest && all.includes(latest) ? latest : all[0])
  }

  function onFocusin(event: FocusEvent): void {
    const entry = event.target instanceof HTMLElement ? event.target.closest<HTMLElement>(ENTRY) : null
    if (event.target === list.value) enter()
    else if (entry) {
      isInside.value = true
      latest = entry
    }
  }

  function onFocusout(event: FocusEvent): void {
    if (!(event.relatedTarget instanceof Node && list.value?.contains(event.relatedTarget))) isInside.value = false
  }

  function onKeydown(event: KeyboardEvent): void {
    const all = entries()
    const at = latest ? all.indexOf(latest) : -1
    if (at < 0 || event.altKey || event.ctrlKey || event.metaKey || event.shiftKey) return
    const last = all.length - 1
    const to = { ArrowDown: Math.min(at + 1, last), ArrowUp: Math.max(at - 1, 0), Home: 0, End: last }[event.key]
    if (to !== undefined) go(all[to])
    else if (event.key === 'ArrowRight' || event.key === 'ArrowLeft') fold(all[at]!, event.key === 'ArrowRight')
    else return
    event.preventDefault()
  }

  /** Unfolds what an entry leads to, or folds it; from inside, left leads to what it stands in. */
  function fold(entry: HTMLElement, opens: boolean): void {
    const own = entry.hasAttribute('aria-expanded')
      ? entry
      : entry.closest('.entry')?.querySelector<HTMLElement>('[aria-expanded]')
    if (own && (own.getAttribute('aria-expanded') === 'true') !== opens) own.click()
  }

  return { isInside, enter, onFocusin, onFocusout, onKeydown }
}
