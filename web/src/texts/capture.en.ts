/** Texts of capturing, in English. */
export const capture = {
  nav: "Capture", title: "Capture a meeting", what: "What is it?", untitled: (when: string) => `Meeting of ${when}`, microphone: "Microphone", anyMicrophone: "The one the device uses",
  sources: "What is captured", room: "The room, by microphone", both: "The room and the sound of this computer", bothHint: "For a call in another tab or program: you choose which, and its sound becomes a second track.", screen: "The room and a screen, with its sound", screenHint: "What the screen shows is kept as stills, one whenever it changes, in step with the sound.",
  level: "How loud it is here", quiet: "quiet", good: "good", loud: "too loud", speak: "Say something: the rain should rise.", begin: "Begin", agenda: "Agenda", noAgenda: "None", rehearse: "Rehearse first",
  limits: (used: number, allowed: number | null) => allowed === null ? "As long as you like: an hour takes about 170 MB on the way and 90 MB to keep." : `${Math.max(0, allowed - used)} of ${allowed} minutes of this month are left. An hour takes about 170 MB on the way.`,
  memoTo: "To whom", memo: "A memo to colleagues", memoTitle: "Speak a memo", memoHint: "A short meeting of your own voice: they get a mail, read it, hear it, and can answer.", memoFor: (names: string) => `Memo to ${names}`,
  refused: {
    NotAllowedError: "The browser does not allow the microphone. Allow it beside the address of this page, then try again.",
    NotFoundError: "There is no microphone. Plug one in, then try again.", NotReadableError: "The microphone is used by another program, or does not answer. Close that program, then try again.",
    OverconstrainedError: "That microphone is gone. Choose another.", NoSoundShared: "No sound was shared. Choose a tab or the whole screen again, and tick that its sound is shared.", other: "The microphone cannot be used. Choose another, or try another browser.",
  } as Record<string, string>,
  on: "On the record", off: "Off the record", ending: "Sending the rest", goOff: "Off the record", strike: "Off, and the last two minutes too", goOn: "On the record again", stop: "Stop", begun: "Not on the record yet",
  struck: (time: string) => `${time} struck. It is gone for good.`, sureStrike: "The last two minutes are struck for good: sound, words, everything. This cannot be undone.", strikeYes: "Strike them", leave: "Leave them",
  sureStop: "Stop the capture?", stopHint: "What was captured becomes the record. You can go on later in the same meeting.", stopYes: "Stop", stopNo: "Go on",
  waiting: (n: number) => `${n} ${n === 1 ? "second" : "seconds"} still on this device`, lost: "No connection. Everything is kept on this device and follows by itself.",
  trouble: {
    silent: "Nothing has been heard for a minute. Is it the right microphone, and is it switched on?", clipping: "It is too loud and distorts. Move the microphone away, or turn it down.",
    unplugged: "The microphone is gone. What was captured is safe. Plug it in again or choose another, then go on.", full: "This device has no room left, so the newest seconds are kept in memory only. Make room, or stop soon.",
    slept: "The device slept for a while; what was said meanwhile was not captured. The strip shows the gap.",
  } as Record<string, string>,
  unfinished: (title: string) => `“${title}” was cut off while it was being captured. Everything up to then is kept.`, finish: "Finish it", resume: "Go on with it", openIt: "Open",
  elsewhere: "A capture is running in another tab of this browser. It goes on there.", later: "Go on capturing", notHere: "It is being captured on another device.", finishWithout: "Finish with what has arrived", finishHint: "Only if that device will not come back: what it still holds is given up.",
  tell: "Have people been told?", tellHint: "Those who are captured should know. How they were told is kept with the meeting.", said: "I have told them", without: "Begin without telling", copy: "Copy the notice", copied: "The notice is copied. Paste it where all can read it.",
  show: "Show it as a page", aloud: "Have it read out", code: "QR code of the page with the notice", page: "Open the page", answers: "Answers", agreed: "agreed", objected: "objects", noAnswers: "Nobody has answered yet.", who: "Somebody else who answers", present: "Who is there?", agrees: "agrees", objects: "objects", mustAll: "This workspace captures only when everybody named has agreed.",
  how: { chat: "told in writing", page: "shown the page", aloud: "read out", said: "told in person", none: "begun without a notice" } as Record<string, string>, noticeTitle: "Notice and answers", notice: "Notice", language: "Language", cancel: "Not now",
};
export const live = {
  title: "Live record", empty: "Words appear here a few seconds after they are spoken.", behind: (s: number) => `The hearing is ${s} seconds behind; it catches up when there is a pause. Nothing is lost.`, captions: "Captions", captionsIn: "Captions in", 
  languages: { "": "As spoken", es: "Spanish", ca: "Catalan", gl: "Galician" } as Record<string, string>, fromEnglish: "Put into another language by rules, from English: for getting the drift.", gap: (time: string) => `off the record for ${time}`, gapNow: "off the record",
  sleepGap: (time: string) => `the device slept for ${time}`, lately: "What did I miss?", latelyMinutes: (n: number) => (n ? `The last ${n} minutes` : "From the beginning"), latelyNone: "Nothing worth summing up was said in that time.", meanwhile: "Meanwhile", close: "Close",
};
export const notes = {
  refers: "In the record", adds: (what: string) => `The record adds ${what}`, differs: (mine: string, theirs: string) => `Here ${mine}, in the record ${theirs}`,
  title: "Notes", write: "Write a note", share: "Share", unshare: "Keep to myself", mine: "only you see this", placeholder: "A note, with the time you began it", shared: "Shared with all who see the meeting", add: "Add", remove: "Remove", removed: "Note removed.", empty: "Notes you write stay yours until you share them.",
  mark: "Mark", marked: (kind: string) => `Marked: ${kind}`, jot: "Jot down an action", jotted: "Jotted down. It will stand in the minutes.", owner: "Who", due: "By", what: "What is to be done", unmark: "Take the mark off",
};
export const workspace = {
  title: "Capturing in this workspace", noticeIn: (language: string) => `Notice in ${language}`, own: "Empty: the text that comes with Aftershower.", consent: "Capture only when everybody named has agreed", minutes: "Minutes a month", noLimit: "no limit", used: (n: number) => `${n} used this month`, kinds: "Kinds of mark", kindsHint: "Separated by commas; the first is set by the key k.", keep: "Keep", another: "Another language", code: "Code, such as fr",
};
export const agenda = {
  title: "Agenda", point: "Point", minutes: "Minutes", add: "Add a point", save: "Keep the agenda", none: "No agenda. Set points with their minutes, and they run along.", set: "Set an agenda", change: "Change", next: "Next point", first: "Begin with the first", done: "All points done",
  over: (time: string) => `${time} over`, left: (time: string) => `${time} left`, took: (time: string, planned: number) => `took ${time} of ${planned} min`, planned: (n: number) => `${n} min`, template: "Use the agenda of", keep: "Keep it for this kind of meeting", kind: "Kind of meeting", kept: "Kept for the next time.", remove: "Take the point out",
};
export const notice = {
  title: "This meeting is being recorded", on: "On the record now", off: "Off the record now: nothing is captured", over: "The capture has ended", yourName: "Your name", agree: "I agree", object: "I object", thanks: "Thank you. Your answer is kept with the meeting.", objected: "Thank you. Whoever captures sees that you object.", gone: "This notice is no longer shown.", by: (workspace: string) => `by ${workspace}`,
};
export const rehearsal = {
  title: "Rehearsal", intro: "Two minutes to see whether everything works. Nothing of it is kept.", start: "Begin the rehearsal", stop: "That is enough", left: (s: number) => `${s} seconds left`, again: "Rehearse again", toCapture: "Capture for real",
  speak: "Speak as you would in the meeting: a sentence or two, then be quiet for some seconds.", rows: { microphone: "Microphone", level: "Level", noise: "Background", network: "Network", hearing: "The way to the record", notice: "Notice" } as Record<string, string>,
  waiting: "listening…",
  microphone: { good: "It answers.", bad: "It does not answer." }, level: { good: "Your voice is well above the background.", low: "Your voice is faint. Come closer, or turn the microphone up.", loud: "It distorts. Move away a little, or turn the microphone down.", none: "No voice was heard. Is it the right microphone?" },
  noise: { good: "The room is quiet.", bad: "There is a steady noise, a fan perhaps. Switch it off or bring the microphone closer." }, network: { good: (ms: number) => `A second of sound takes ${ms} ms to be kept.`, bad: (ms: number) => `A second of sound takes ${ms} ms to be kept. It would collect on this device and follow later.`, none: "The server does not answer. A capture would wait on this device until it does." },
  hearing: { good: (words: string) => `Heard: “${words}”`, none: "No words were made out. Speak a whole sentence.", bad: "The hearing does not answer. The capture works without it; the record comes later." }, notice: { good: (n: number) => `There is a notice in ${n} languages.` },
};
