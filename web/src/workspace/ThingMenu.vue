<script setup lang="ts">
import { mdiMenuRight } from '@mdi/js'
import { computed, ref, toRef } from 'vue'
import type { Offer } from '@/api/types'
import { useLinking } from './keeping/linking'
import { useSaying } from './keeping/saying'
import { useWorkspace } from './store'
import { useThingMenu } from './thingMenu'
import { useMenuFocus } from './useMenuFocus'

interface Entry {
  words: string
  offer: Offer | null
  below: Offer[]
}

const menu = useThingMenu()
const saying = useSaying()
const linking = useLinking()
const workspace = useWorkspace()
const list = ref<{ $el: HTMLElement } | null>(null)
useMenuFocus(toRef(menu, 'isOpen'), list)
// Offers under one heading stand in a slip of their own beside it.
const entries = computed(() => {
  const found: Entry[] = []
  for (const offer of menu.offers) {
    const heading = offer.under ? found.find((each) => !each.offer && each.words === offer.under) : undefined
    if (heading) heading.below.push(offer)
    else if (offer.under) found.push({ words: offer.under, offer: null, below: [offer] })
    else found.push({ words: offer.words, offer, below: [] })
  }
  return found
})
/** Something is said of a number of a saved analysis, as it stands now. */
const isNumber = computed(() => !!menu.cell && menu.cell.row >= 0 && menu.cell.column >= 0 && !workspace.isBehind)
const canSay = computed(() => isNumber.value && !!workspace.draft?.analysis)

function link(): void {
  menu.isOpen = false
  void linking.copyLink(menu.cell)
}

function say(): void {
  menu.isOpen = false
  saying.open(menu.cell)
}
</script>

<template>
  <v-menu v-if="menu.anchor" v-model="menu.isOpen" :target="menu.anchor" location="bottom start" :offset="2">
    <v-list ref="list" class="slip-list" role="menu">
      <template v-for="entry in entries" :key="entry.words">
        <v-list-item v-if="entry.offer" role="menuitem" :title="entry.words" @click="menu.choose(entry.offer)" />
        <v-list-item v-else link role="menuitem" aria-haspopup="menu" :title="entry.words" :append-icon="mdiMenuRight">
          <v-menu activator="parent" location="end top" submenu open-on-click>
            <v-list class="slip-list" role="menu">
              <v-list-item
                v-for="offer in entry.below"
                :key="offer.words"
                role="menuitem"
                :title="offer.words"
                @click="menu.choose(offer)"
              />
            </v-list>
          </v-menu>
        </v-list-item>
      </template>
      <v-list-item v-if="canSay" role="menuitem" title="Comment on it…" @click="say" />
      <v-list-item v-if="isNumber" role="menuitem" title="Copy a link to it" @click="link" />
      <v-list-item v-if="!menu.offers.length" title="Nothing can be done with it here" disabled />
    </v-list>
  </v-menu>
</template>
