<script setup lang="ts">
// At the right nothing, until headers are selected: then what can be done with them, and only that.
import { computed } from 'vue'
import type { Offer } from '@/api/types'
import { useListing } from './listing/listing'
import { useMaking } from './making/making'
import { useSelection } from './table/selection'
import { useThingMenu } from './thingMenu'

const selection = useSelection()
const menu = useThingMenu()
const making = useMaking()
const listing = useListing()
const shown = computed(() => selection.captions.slice(0, 6))
const more = computed(() => selection.captions.length - shown.value.length)
const plain = computed(() =>
  selection.offers.filter(
    (offer) =>
      !offer.under && (offer.gesture || offer.asks === 'formula' || offer.asks === 'joint' || offer.asks === 'list'),
  ),
)

function choose(offer: Offer): void {
  const thing = selection.thing()
  if (offer.asks === 'formula') void making.begin(thing)
  else if (offer.asks === 'joint' && thing) menu.edit('joint', thing)
  else if (offer.asks === 'list') void listing.begin(thing)
  else selection.choose(offer)
}

function openAll(event: MouseEvent): void {
  const thing = selection.thing()
  if (thing) void menu.open(thing, event.currentTarget as HTMLElement)
}
</script>

<template>
  <aside v-if="selection.selected.length" class="panel" aria-label="What is selected">
    <header>
      <h2>{{ selection.selected.length }} selected</h2>
      <v-btn size="small" @click="selection.clear">Let go</v-btn>
    </header>
    <ul class="members">
      <li v-for="caption in shown" :key="caption">{{ caption }}</li>
      <li v-if="more > 0" class="soft">and {{ more }} more</li>
    </ul>
    <button v-for="offer in plain" :key="offer.words" type="button" class="plain-button act" @click="choose(offer)">
      {{ offer.words }}
    </button>
    <button type="button" class="plain-button act" aria-haspopup="menu" @click="openAll">More…</button>
  </aside>
</template>

<style scoped>
.panel {
  display: flex;
  flex-direction: column;
  gap: 4px;
  align-items: flex-start;
  width: 208px;
  padding: 10px 12px;
  overflow: auto;
  border-left: 1px solid rgb(var(--v-theme-rule));
}

header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  width: 100%;
}

h2 {
  margin: 0;
  font: 600 16px/22px var(--serif);
  color: rgb(var(--v-theme-secondary));
}

.members {
  margin: 0 0 6px;
  padding: 0;
  list-style: none;
}

.act {
  padding: 3px 0;
  font-weight: 500;
}

.act:hover {
  color: rgb(var(--v-theme-secondary));
}
</style>
