import type { LoggedEvent } from '@/api/types'

const WORDS: Record<string, string> = {
  signed_in: 'signed in',
  sign_in_failed: 'failed to sign in',
  locked_out: 'was locked out after many wrong passwords',
  signed_out: 'signed out',
  session_ended: 'ended sessions',
  shared: 'shared',
  exported: 'took away',
  granted: 'granted',
  grant_taken: 'took back',
  person_added: 'added',
  person_disabled: 'shut out',
  person_enabled: 'let in again',
  password_set: 'chose a password',
  invited: 'made a link for',
  made_administrator: 'made administrator of',
  no_longer_administrator: 'took administration from',
  group_changed: 'changed a group:',
  seen_as: 'saw as',
  question_ended: 'ended a question',
  unexpected_error: 'met an error that was not foreseen:',
  step_not_kept: 'could not be kept',
  opened: 'opened',
  saved: 'saved',
  froze: 'froze',
  commented: 'commented on',
  moved: 'moved',
  removed: 'deleted',
  fed: 'read from elsewhere',
  brought: 'brought files for',
  model_changed: 'changed the model',
  token_made: 'made a token for',
  token_ended: 'ended a token',
  sign_on_failed: 'could not sign on:',
  sign_on_changed: 'changed who signs on:',
}

/** An event in words: "Ines Calder granted varrow_bay to tomas". */
export function eventWords(event: LoggedEvent): string {
  const isAttempt = event.kind === 'sign_in_failed' || event.kind === 'locked_out'
  const isUnknown = event.kind === 'sign_on_failed'
  const who = isAttempt
    ? `“${event.about}”`
    : (event.person_name ?? event.person ?? (isUnknown ? 'Somebody' : 'The server'))
  const about = isAttempt ? '' : ` ${event.about}`
  return `${who} ${WORDS[event.kind] ?? event.kind.replaceAll('_', ' ')}${about}`.trim()
}
