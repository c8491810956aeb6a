import type { Directive } from 'vue'

const FRAMES = 30

/**
 * `v-first-field`: the field of a slip that is written in first has the focus as soon as it is seen.
 * It asks again for some frames, since a slip cannot have the focus while it comes in, and leaves off
 * once the person has gone to another part of the slip: what is being written stays where it is written.
 */
export const vFirstField: Directive<HTMLElement> = {
  mounted(host) {
    const field = host.querySelector<HTMLElement>('input, textarea')
    const slip = host.closest('[role=dialog]')
    const before = document.activeElement

    function isElsewhere(): boolean {
      const now = document.activeElement
      return now instanceof HTMLElement && now !== before && now.tabIndex >= 0 && !!slip?.contains(now)
    }

    function take(frames: number): void {
      if (!field?.isConnected || document.activeElement === field || isElsewhere()) return
      field.focus()
      // What is proposed there is written over by the first letter.
      if (field instanceof HTMLInputElement && field.type === 'text')
        field.setSelectionRange(0, field.value.length, 'backward')
      if (frames) requestAnimationFrame(() => take(frames - 1))
    }

    take(FRAMES)
  },
}
