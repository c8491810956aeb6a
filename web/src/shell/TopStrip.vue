<script setup lang="ts">
import { mdiLogoutVariant, mdiWeatherNight, mdiWhiteBalanceSunny } from '@mdi/js'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { useProblem } from './problem'
import { useSession } from './session'
import { useThemeChoice } from './useThemeChoice'

const session = useSession()
const problem = useProblem()
const router = useRouter()
const { isDark, toggle } = useThemeChoice()
const themeWords = computed(() => (isDark.value ? 'Light paper' : 'Dark paper'))
const themeIcon = computed(() => (isDark.value ? mdiWhiteBalanceSunny : mdiWeatherNight))

async function leave(): Promise<void> {
  await session.signOut().catch(problem.tell)
  await router.push({ name: 'sign-in', query: { out: '' } })
}

async function seeMyself(): Promise<void> {
  await session
    .seeAs(null)
    .then(() => router.push({ name: 'administration' }))
    .catch(problem.tell)
}
</script>

<template>
  <header class="strip">
    <router-link class="home" to="/" title="To the library">Dastan</router-link>
    <slot />
    <span class="space" />
    <slot name="actions" />
    <v-btn :icon="themeIcon" size="28" :aria-label="themeWords" :title="themeWords" @click="toggle" />
    <router-link v-if="session.isAdministrator" class="soft who" :to="{ name: 'administration' }"
      >Administration</router-link
    >
    <router-link
      class="soft who"
      :to="{ name: 'sessions' }"
      title="Where you are signed in, and tokens for other programs"
      >{{ session.person?.name }}</router-link
    >
    <v-btn :icon="mdiLogoutVariant" size="28" aria-label="Sign out" title="Sign out" @click="leave" />
  </header>
  <div v-if="session.seesAs" class="sees-as" role="status">
    You look at models with the rights of <strong>{{ session.seesAs }}</strong>; what is saved is yours.
    <button type="button" class="plain-button back" @click="seeMyself">See as yourself again</button>
  </div>
</template>

<style scoped>
.strip {
  display: flex;
  align-items: center;
  gap: 10px;
  height: var(--strip-height);
  padding: 0 10px 0 14px;
  border-bottom: 1px solid rgb(var(--v-theme-rule));
}

.home {
  font: 600 18px/30px var(--serif);
  color: inherit;
  text-decoration: none;
}

.space {
  flex: 1;
}

.who {
  white-space: nowrap;
  text-decoration: none;
}

.who:hover {
  text-decoration: underline;
}

.sees-as {
  padding: 3px 14px;
  background: rgb(var(--v-theme-saffron-tint));
  border-bottom: 1px solid rgb(var(--v-theme-saffron));
}

.back {
  margin-left: 8px;
  text-decoration: underline;
  text-underline-offset: 2px;
}

.strip :deep(.v-icon) {
  font-size: 17px;
}
</style>
