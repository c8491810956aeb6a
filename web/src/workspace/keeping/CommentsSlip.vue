<script setup lang="ts">
// What is said of an analysis and of its numbers, and a place to say something.
import { mdiClose } from '@mdi/js'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { GET, body } from '@/api/client'
import { whenSaid } from '@/library/entries'
import { useProblem } from '@/shell/problem'
import { useSession } from '@/shell/session'
import { useSaying } from './saying'

const saying = useSaying()
const session = useSession()
const problem = useProblem()
const text = ref('')
const mentions = ref<string[]>([])
const people = shallowRef<{ id: string; name: string }[]>([])
const others = computed(() => people.value.filter((each) => each.id !== session.person?.id))

onMounted(async () => {
  try {
    people.value = await body(GET('/api/people'))
  } catch (error) {
    problem.tell(error)
  }
})

async function say(): Promise<void> {
  if (!text.value.trim() || !(await saying.say(text.value, mentions.value))) return
  text.value = ''
  mentions.value = []
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="Comments"
    :model-value="true"
    width="440"
    @update:model-value="saying.isOpen = false"
  >
    <v-card>
      <form class="paper" @submit.prevent="say">
        <h2>Comments</h2>
        <p v-if="!saying.comments.length" class="soft note">
          Nothing was said yet. Whoever may see the analysis reads what is said here; of a number, whoever may see that.
        </p>
        <div v-else class="said-list" tabindex="0" role="region" aria-label="What was said">
          <article v-for="each in saying.comments" :key="each.id" class="comment">
            <header class="soft">
              <span
                ><strong>{{ each.author_name }}</strong
                ><template v-if="each.mentions.length"> to {{ each.mentions.join(', ') }}</template
                >, {{ whenSaid(each.said_at) }}</span
              >
              <v-btn
                v-if="each.may_remove"
                :icon="mdiClose"
                size="20"
                :aria-label="`Take away what ${each.author_name} said`"
                title="Take it away"
                @click="saying.remove(each.id)"
              />
            </header>
            <button
              v-if="each.cell && each.cell.row !== null"
              type="button"
              class="plain-button of"
              title="Show this number"
              @click="saying.wanted = { row: each.cell.row!, column: each.cell.column! }"
            >
              {{ each.cell.caption }}
            </button>
            <span v-else-if="each.cell" class="soft of" title="The table does not show this number now">{{
              each.cell.caption
            }}</span>
            <p>{{ each.text }}</p>
          </article>
        </div>
        <p v-if="saying.about" class="soft note">
          Of the number that you chose.
          <button type="button" class="plain-button act" @click="saying.about = null">
            Of the whole analysis instead
          </button>
        </p>
        <v-textarea
          v-model="text"
          :label="saying.about ? 'Say something of this number' : 'Say something'"
          rows="2"
          auto-grow
          autofocus
        />
        <v-autocomplete
          v-model="mentions"
          label="To"
          :items="others"
          item-title="name"
          item-value="id"
          multiple
          chips
          closable-chips
          hide-details
          variant="outlined"
          density="compact"
          no-data-text="Nobody else"
        />
        <footer>
          <v-btn @click="saying.isOpen = false">Close</v-btn>
          <v-btn type="submit" variant="flat" color="primary" :disabled="!text.trim()">Say it</v-btn>
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./slip.css" />
<style scoped>
.said-list {
  max-height: 320px;
  overflow-y: auto;
}

.comment {
  padding: 6px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.comment header {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
}

.comment p {
  margin: 2px 0 0;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}

.of {
  font-size: 12px;
}

button.of,
.act {
  text-decoration: underline dotted rgb(var(--v-theme-saffron)) 2px;
  text-underline-offset: 3px;
}
</style>
