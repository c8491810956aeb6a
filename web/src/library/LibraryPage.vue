<script setup lang="ts">
import { mdiDotsHorizontal } from '@mdi/js'
import { useStorage } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { POST, body } from '@/api/client'
import type { Folder, LibraryEntry, LibraryModel } from '@/api/types'
import { useNotice } from '@/shell/notice'
import { useSession } from '@/shell/session'
import SlipMenu from '@/shell/SlipMenu.vue'
import TopStrip from '@/shell/TopStrip.vue'
import { later } from '@/shell/later'
import BringFiles from './BringFiles.vue'
import DeletedList from './DeletedList.vue'
import DraftList from './DraftList.vue'
import EntryList from './EntryList.vue'
import FolderSlip from './FolderSlip.vue'
import PlaceList from './PlaceList.vue'
import RenameSlip from './RenameSlip.vue'
import { ORDERS, daySaid, matching, ordered, type Order } from './entries'
import { useLibrary } from './library'
import { NOTHING, entriesIn, newIn, type Place } from './places'

const ShareSlip = later(() => import('@/workspace/keeping/ShareSlip.vue'))
const BringSlip = later(() => import('./BringSlip.vue'))
const VersionsSlip = later(() => import('@/workspace/keeping/VersionsSlip.vue'))

const router = useRouter()
const route = useRoute()
const session = useSession()
const notice = useNotice()
const library = useLibrary()
const words = ref('')
const order = useStorage<Order>('dastan-library-order', 'name')
const slip = shallowRef<{ what: 'rename' | 'share' | 'versions'; entry: LibraryEntry } | null>(null)
const folderSlip = shallowRef<{ folder: Folder | null; within: string | null } | null>(null)
/** The model that newer files are brought into, and these. */
const renewing = shallowRef<LibraryModel | null>(null)
const newer = shallowRef<File[]>([])
const newerInput = ref<HTMLInputElement | null>(null)

function chooseNewer(model: LibraryModel): void {
  renewing.value = model
  newerInput.value?.click()
}

function endRenewing(): void {
  newer.value = []
  renewing.value = null
  if (newerInput.value) newerInput.value.value = ''
}

async function tellRenewed(): Promise<void> {
  notice.tell(`“${renewing.value?.caption}” has the newer files.`)
  endRenewing()
  await library.load()
}

const sharedFolder = shallowRef<Folder | null>(null)

const seen = computed(() => library.library)
const place = computed<Place>(() => String(route.query.in ?? 'recent'))
const folder = computed(() => seen.value?.folders.find((each) => each.id === place.value) ?? null)
const isList = computed(() => place.value in NOTHING && place.value !== 'folder')
const isSearching = computed(() => !!words.value?.trim())
const subfolders = computed(() =>
  isSearching.value || !folder.value ? [] : (seen.value?.folders ?? []).filter((each) => each.parent === place.value),
)
const entries = computed(() => {
  if (!seen.value) return []
  if (isSearching.value) return ordered(matching(seen.value.entries, words.value, library.paths), order.value)
  const there = entriesIn(place.value, seen.value, session.person?.id ?? '')
  return place.value === 'recent' ? there : ordered(there, order.value)
})
/** Beside what was opened lately: what others shared since. */
const unopened = computed(() =>
  seen.value && place.value === 'recent' && !isSearching.value ? newIn(seen.value, session.person?.id ?? '') : [],
)
const counts = computed(() => {
  const found: Record<string, number> = {}
  if (!seen.value) return found
  for (const each of ['favourites', 'all', 'shared'])
    found[each] = entriesIn(each, seen.value, session.person?.id ?? '').length
  for (const entry of seen.value.entries) if (entry.folder) found[entry.folder] = (found[entry.folder] ?? 0) + 1
  found.deleted = seen.value.removed.length + seen.value.removed_folders.length + seen.value.removed_models.length
  return found
})
const NAMES: Record<string, string> = {
  recent: 'Recent',
  favourites: 'Favourites',
  all: 'All analyses',
  shared: 'Shared with me',
  deleted: 'Deleted lately',
}
const heading = computed(() =>
  isSearching.value ? 'Found' : (NAMES[place.value] ?? folder.value?.name ?? 'No such folder'),
)
/** The folders that this one lies in. */
const above = computed(() =>
  !isSearching.value && folder.value
    ? (library.paths.get(folder.value.id) ?? '').split(' › ').slice(0, -1).join(' › ')
    : '',
)
const nothing = computed(() => {
  if (isSearching.value)
    return 'Nothing that you may see has these words in its name, its sentence, its description, its folder or its author.'
  if (!isList.value && !folder.value) return 'It was deleted, or is not shared with you any more.'
  return subfolders.value.length ? '' : (NOTHING[isList.value ? place.value : 'folder'] ?? '')
})
const listsEntries = computed(() => isSearching.value || place.value !== 'deleted')

function begin(model: string): Promise<void> {
  return library.doing(async () => {
    const draft = await body(POST('/api/drafts', { body: { model } }))
    await router.push({ name: 'draft', params: { id: draft.id } })
  })
}

async function removeFolder(which: Folder): Promise<void> {
  await library.removeFolder(which)
  await router.push({ name: 'library', query: which.parent ? { in: which.parent } : {} })
}

onMounted(() => library.load())
</script>

<template>
  <div class="page">
    <TopStrip />
    <main v-if="seen" class="contents">
      <h1 class="unseen">Library</h1>
      <section class="side">
        <h2 class="small-caps begin">Begin</h2>
        <div v-for="model in seen.models" :key="model.name" class="model">
          <div class="model-name">
            {{ model.caption }}
            <SlipMenu v-if="model.is_own || model.may_shape">
              <template #opener="{ own }">
                <v-btn
                  v-bind="own"
                  class="more"
                  :icon="mdiDotsHorizontal"
                  size="22"
                  :aria-label="`What can be done with the model “${model.caption}”`"
                />
              </template>
              <v-list-item
                v-if="model.may_shape"
                role="menuitem"
                title="The model…"
                :to="{ name: 'model', params: { name: model.name } }"
              />
              <template v-if="model.is_own">
                <v-list-item role="menuitem" title="Bring newer files…" @click="chooseNewer(model)" />
                <v-list-item role="menuitem" title="Delete it, with its files" @click="library.removeModel(model)" />
              </template>
            </SlipMenu>
          </div>
          <p class="soft about" :title="model.description">{{ model.description }}</p>
          <p v-if="model.state === 'failed'" class="trouble" role="alert">It cannot be opened. {{ model.trouble }}</p>
          <p v-else-if="model.behind" class="trouble" role="alert">
            It answers from earlier files, as newer ones cannot be read. {{ model.behind }}
          </p>
          <p v-else-if="model.state === 'opening'" class="soft" role="status">
            It is being opened<template v-if="model.opened_percent"
              >: {{ model.opened_percent }} % of it is read</template
            >. A large folder that is new is read once, which takes a while; later it opens at once.
          </p>
          <v-btn
            v-if="model.state !== 'failed'"
            variant="flat"
            color="primary"
            height="28"
            :aria-label="`New analysis of ${model.caption}`"
            @click="begin(model.name)"
            >New analysis</v-btn
          >
        </div>
        <p v-if="!seen.models.length" class="soft">
          No model was granted to you yet. Ask an administrator to let you open one<template v-if="seen.may_bring"
            >, or bring files of your own</template
          >.
        </p>
        <input
          ref="newerInput"
          class="unseen"
          type="file"
          multiple
          aria-label="Newer files"
          tabindex="-1"
          @change="newer = [...(newerInput?.files ?? [])]"
        />
        <BringFiles v-if="seen.may_bring" :open="(made) => begin(made.model)" />
        <PlaceList
          class="places"
          :place="isSearching ? '' : place"
          :counts="counts"
          @new-folder="folderSlip = { folder: null, within: folder && library.canPut(folder.id) ? folder.id : null }"
          @click="words = ''"
        />
      </section>
      <section class="lists">
        <header class="heading">
          <h2>
            <span v-if="above" class="soft above">{{ above }} › </span>{{ heading }}
          </h2>
          <template v-if="folder && !isSearching">
            <span class="soft">{{ folder.owner === session.person?.id ? '' : `of ${folder.owner_name}` }}</span>
            <v-btn @click="sharedFolder = folder">{{ folder.may === 'manage' ? 'Share' : 'Who may do what' }}</v-btn>
            <SlipMenu v-if="folder.may === 'manage'">
              <template #opener="{ own }">
                <v-btn
                  v-bind="own"
                  :icon="mdiDotsHorizontal"
                  size="26"
                  :aria-label="`What can be done with the folder “${folder.name}”`"
                />
              </template>
              <v-list-item role="menuitem" title="Rename or move…" @click="folderSlip = { folder, within: null }" />
              <v-list-item
                role="menuitem"
                title="New folder in it…"
                @click="folderSlip = { folder: null, within: folder.id }"
              />
              <v-list-item role="menuitem" title="Delete, with all that lies in it" @click="removeFolder(folder)" />
            </SlipMenu>
          </template>
          <span class="space" />
          <v-select
            v-if="listsEntries && (isSearching || place !== 'recent') && entries.length > 1"
            v-model="order"
            class="order"
            :items="ORDERS"
            aria-label="Order"
          />
          <v-text-field
            v-if="seen.entries.length"
            v-model="words"
            class="search"
            placeholder="Find an analysis"
            aria-label="Find an analysis"
            clearable
          />
        </header>
        <p v-if="library.deleted" class="deleted" role="status">
          “{{ library.deleted.name }}” is deleted.
          <button class="plain-button act" @click="library.deleted.back()">Bring it back</button>
        </p>
        <p
          v-for="each in place === 'recent' && !isSearching ? seen.mentions : []"
          :key="each.comment"
          class="failure"
          role="status"
        >
          <span
            >{{ each.author_name }} to you{{ each.text ? '' : ', of a number' }} on “{{ each.item_name }}”<template
              v-if="each.text"
              >: {{ each.text }}</template
            ></span
          >
          <router-link :to="{ name: 'analysis', params: { id: each.item }, query: { said: 'yes' } }"
            >Read it</router-link
          >
        </p>
        <p
          v-for="each in place === 'recent' && !isSearching ? seen.failures : []"
          :key="each.id"
          class="failure"
          role="status"
        >
          <span
            >“{{ each.item_name }}” could not be made on {{ daySaid(each.at) }}. {{ each.trouble }}
            {{ each.hint }}</span
          >
          <router-link :to="{ name: 'analysis', params: { id: each.item } }">Open it</router-link>
          <button class="plain-button act" @click="library.putAway(each.id)">Put away</button>
        </p>
        <template v-if="place === 'recent' && !isSearching && seen.drafts.length">
          <h3 class="small-caps">Not yet saved</h3>
          <DraftList class="drafts" :drafts="seen.drafts" @discard="library.discard" />
        </template>
        <h3
          v-if="entries.length && place === 'recent' && !isSearching && (seen.drafts.length || unopened.length)"
          class="small-caps"
        >
          Opened lately
        </h3>
        <router-link
          v-for="each in subfolders"
          :key="each.id"
          class="subfolder"
          :to="{ name: 'library', query: { in: each.id } }"
        >
          {{ each.name }} <span class="soft">{{ counts[each.id] ?? 'nothing' }} in it</span>
        </router-link>
        <DeletedList v-if="!listsEntries" />
        <EntryList
          v-else
          :entries="entries"
          :shows-folder="isSearching || isList"
          @act="(what, entry) => (slip = { what, entry })"
        />
        <template v-if="unopened.length">
          <h3 class="small-caps">Shared with you, not opened yet</h3>
          <EntryList :entries="unopened" shows-folder @act="(what, entry) => (slip = { what, entry })" />
        </template>
        <p
          v-if="
            listsEntries &&
            !entries.length &&
            nothing &&
            !(place === 'recent' && (seen.drafts.length || unopened.length) && !isSearching)
          "
          class="empty"
        >
          {{ nothing }}
        </p>
      </section>
    </main>
    <BringSlip
      v-if="renewing && newer.length"
      :chosen="newer"
      :into="renewing"
      @close="endRenewing"
      @renewed="tellRenewed"
    />
    <RenameSlip v-if="slip?.what === 'rename'" :entry="slip.entry" @close="slip = null" />
    <ShareSlip
      v-if="slip?.what === 'share'"
      kind="analyses"
      :thing="slip.entry"
      @close="slip = null"
      @shared="library.load"
    />
    <VersionsSlip
      v-if="slip?.what === 'versions'"
      :analysis="slip.entry"
      @close="slip = null"
      @restored="library.load"
    />
    <ShareSlip
      v-if="sharedFolder"
      kind="folders"
      :thing="sharedFolder"
      @close="sharedFolder = null"
      @shared="library.load"
    />
    <FolderSlip
      v-if="folderSlip"
      v-bind="folderSlip"
      @close="folderSlip = null"
      @made="(id) => router.push({ name: 'library', query: { in: id } })"
    />
  </div>
</template>

<style scoped>
.page {
  display: flex;
  flex-direction: column;
  height: 100vh;
}

.contents {
  flex: 1;
  display: grid;
  grid-template-columns: 240px minmax(0, 1000px);
  gap: 44px;
  min-height: 0;
  background: rgb(var(--v-theme-surface));
}

.side {
  padding: 22px 0 40px 24px;
  overflow-y: auto;
}

.lists {
  padding: 18px 40px 60px 4px;
  overflow-y: auto;
}

.begin {
  margin: 0 8px 4px;
}

.model {
  margin: 0 8px 12px;
}

.model-name {
  margin-bottom: 4px;
  font: 600 16px/22px var(--serif);
}

.model p {
  margin: 2px 0 6px;
}

.about {
  display: -webkit-box;
  overflow: hidden;
  font-size: 12px;
  line-height: 16px;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 3;
}

.places {
  margin-top: 18px;
}

.trouble {
  color: rgb(var(--v-theme-error));
}

.heading {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 40px;
  padding-bottom: 6px;
  border-bottom: 1px solid rgb(var(--v-theme-on-surface));
}

.heading h2 {
  margin: 0;
  font: 600 20px/26px var(--serif);
}

.above {
  font-weight: 400;
}

h3 {
  margin: 16px 0 2px;
}

.space {
  flex: 1;
}

.order {
  flex: none;
  width: 150px;
}

.search {
  flex: none;
  width: 230px;
}

.failure {
  display: flex;
  gap: 14px;
  justify-content: space-between;
}

.failure > span {
  flex: 1;
}

.failure a {
  color: inherit;
  white-space: nowrap;
}

.failure,
.deleted {
  margin: 8px 0 0;
  padding: 6px 10px;
  background: rgb(var(--v-theme-saffron-tint));
}

.act {
  text-decoration: underline;
  text-underline-offset: 2px;
}

.subfolder {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 6px 0;
  font: italic 16px/22px var(--serif);
  color: inherit;
  text-decoration: none;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.subfolder .soft {
  font: 12px/16px var(--sans);
}

.subfolder:hover {
  color: rgb(var(--v-theme-secondary));
}

.empty {
  font: italic 17px/26px var(--serif);
  color: rgb(var(--v-theme-soft));
}
</style>
