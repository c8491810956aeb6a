<script setup lang="ts">
// Everything that the keyboard does, by where it does it.
import { PLACES } from './places'

const emit = defineEmits<{ close: [] }>()
const PARTS: readonly { caption: string; keys: readonly (readonly [string, string])[] }[] = [
  { caption: 'To go to', keys: PLACES.map((each): [string, string] => [each.key, each.words]) },
  {
    caption: 'In the table',
    keys: [
      ['arrows', 'go to the next cell or header'],
      ['+ −', 'open and close what a header holds; beside the rows → and ← do so too'],
      ['Enter', 'what can be done with it'],
      ['Space', 'select a header; with Shift, all up to it'],
      ['Shift arrows', 'select cells from here on, as the pointer does when it is drawn over them'],
      ['Ctrl C', 'copy what is selected, else what the keyboard is on'],
      ['letters', 'jump to the header that is called so'],
    ],
  },
  {
    caption: 'In the catalogue',
    keys: [
      ['↑ ↓', 'go through it'],
      ['→ ←', 'unfold and fold'],
      ['Enter', 'put it where it fits best; from the field, what is marked'],
      ['Shift F10', 'what can be done with it'],
    ],
  },
  {
    caption: 'Anywhere',
    keys: [
      ['Ctrl Z', 'take the last step back; with Shift, do it again'],
      ['Ctrl Enter', 'show what was arranged'],
      ['Esc', 'close what is open'],
    ],
  },
]
</script>

<template>
  <v-dialog aria-label="Keys" :model-value="true" width="620" @update:model-value="emit('close')">
    <v-card>
      <div class="paper">
        <h2>Keys</h2>
        <div class="parts">
          <section v-for="part in PARTS" :key="part.caption">
            <h3 class="small-caps">{{ part.caption }}</h3>
            <dl>
              <template v-for="[key, words] in part.keys" :key="key">
                <dt>{{ key }}</dt>
                <dd>{{ words }}</dd>
              </template>
            </dl>
          </section>
        </div>
        <footer><v-btn variant="flat" color="primary" @click="emit('close')">Close</v-btn></footer>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./keeping/slip.css" />

<style scoped>
.parts {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px 28px;
}

h3 {
  margin: 0 0 2px;
}

dl {
  display: grid;
  grid-template-columns: 76px 1fr;
  gap: 3px 8px;
  margin: 0;
}

dt {
  font-weight: 600;
  white-space: nowrap;
}

dd {
  margin: 0;
}
</style>
