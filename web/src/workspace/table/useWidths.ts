import { ref } from 'vue'
import type { ShownMeasure } from '@/api/types'
import { useWorkspace } from '../store'

const LEAST = 40
const MOST = 800

/** The widths that hands give to columns: followed while an edge is drawn, kept in the dress when it is let go. */
export function useWidths() {
  const workspace = useWorkspace()
  const drawn = ref<{ measure: string | null; width: number } | null>(null)

  /** Args: `measure` is null for the row headers; `width` what it is now. */
  function begin(event: PointerEvent, measure: ShownMeasure | null, width: number): void {
    const node = event.currentTarget as HTMLElement
    const start = event.clientX
    node.setPointerCapture(event.pointerId)
    const move = (now: PointerEvent): void => {
      drawn.value = {
        measure: measure?.name ?? null,
        width: Math.round(Math.min(MOST, Math.max(LEAST, width + now.clientX - start))),
      }
    }
    const end = async (): Promise<void> => {
      node.removeEventListener('pointermove', move)
      const found = drawn.value
      if (found) await workspace.act({ kind: 'set_width', measure: measure?.placed ?? null, width: found.width })
      drawn.value = null
    }
    node.addEventListener('pointermove', move)
    node.addEventListener('lostpointercapture', () => void end(), { once: true })
  }

  return { drawn, begin }
}
