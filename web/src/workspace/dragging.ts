import { draggable, dropTargetForElements, monitorForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { defineStore } from 'pinia'
import { computed, onScopeDispose, shallowRef, watchEffect, type Ref } from 'vue'
import type { Offer, Thing } from '@/api/types'
import { offersFor } from './things'
import { useWorkspace } from './store'

/** What is being dragged, where it may land, and the landing that the pointer is over. */
export const useDragging = defineStore('dragging', () => {
  const workspace = useWorkspace()
  const thing = shallowRef<Thing | null>(null)
  const offers = shallowRef<Offer[]>([])
  const over = shallowRef<Offer | null>(null)
  const isDragging = computed(() => thing.value !== null)
  const away = computed(() => offers.value.find((offer) => offer.place === 'away') ?? null)

  async function start(dragged: Thing): Promise<void> {
    thing.value = dragged
    offers.value = []
    over.value = null
    const document = workspace.document
    if (!document) return
    const found = await offersFor(document, dragged).catch(() => [])
    if (thing.value === dragged) offers.value = found
  }

  function end(): void {
    thing.value = null
    offers.value = []
    over.value = null
  }

  function landings(place: Offer['place']): Offer[] {
    return offers.value.filter((offer) => offer.place === place)
  }

  return { thing, offers, over, isDragging, away, start, end, landings }
})

/** Listens for drops anywhere: on a landing its gesture is done; outside the table a placed thing is taken away. */
export function useDropMonitor(): void {
  const dragging = useDragging()
  const workspace = useWorkspace()
  // Around all other targets: a drag that is called off, which is over no target, is not one that ends outside.
  onScopeDispose(dropTargetForElements({ element: document.body, getData: () => ({ offer: dragging.away }) }))
  onScopeDispose(
    monitorForElements({
      onDrop({ location }) {
        const offer = location.current.dropTargets[0]?.data.offer as Offer | null | undefined
        if (offer?.gesture) void workspace.act(offer.gesture)
        dragging.end()
      },
    }),
  )
}

/** Makes an element draggable as a thing. */
export function useDraggable(element: Ref<HTMLElement | null>, thing: () => Thing | null): void {
  const dragging = useDragging()
  const canBeDragged = computed(() => thing() !== null)
  watchEffect((onCleanup) => {
    const node = element.value
    if (!node || !canBeDragged.value) return
    onCleanup(
      draggable({
        element: node,
        onDragStart: () => {
          const dragged = thing()
          if (dragged) void dragging.start(dragged)
        },
      }),
    )
  })
}

/** Makes an element a place where the present drag may land; `offer` tells which landing it is. */
export function useLanding(element: Ref<HTMLElement | null>, offer: () => Offer | null): void {
  const dragging = useDragging()
  watchEffect((onCleanup) => {
    const node = element.value
    if (!node) return
    onCleanup(
      dropTargetForElements({
        element: node,
        getData: () => ({ offer: offer() }),
        onDragEnter: () => (dragging.over = offer() ?? dragging.over),
        onDragLeave: () => {
          if (offer() && dragging.over === offer()) dragging.over = null
        },
      }),
    )
  })
}
