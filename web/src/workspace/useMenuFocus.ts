import { nextTick, watch, type Ref } from 'vue'

const FRAMES = 20

/** An open menu has the focus; once it is closed, whatever had it before has it again. */
export function useMenuFocus(isOpen: Ref<boolean>, list: Ref<{ $el: HTMLElement } | null>): void {
  let before: HTMLElement | null = null

  /** The list is there once its menu has been laid out, which takes a few frames. */
  function focusFirst(frames: number): void {
    const first = list.value?.$el.querySelector<HTMLElement>('[role=menuitem]')
    first?.focus()
    if (frames && isOpen.value && (!first || document.activeElement !== first))
      requestAnimationFrame(() => focusFirst(frames - 1))
  }

  watch(isOpen, async (now) => {
    if (now) {
      before = document.activeElement instanceof HTMLElement ? document.activeElement : null
      await nextTick()
      focusFirst(FRAMES)
    } else {
      await nextTick()
      const lost = document.activeElement === document.body || list.value?.$el.contains(document.activeElement)
      if (before?.isConnected && lost) before.focus()
    }
  })
}
