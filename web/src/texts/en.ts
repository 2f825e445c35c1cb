import { agenda, capture, live, notes, notice, rehearsal, workspace } from "./capture.en";
import { review, voices, words } from "./hearing.en";
import { ask, minutes, templates } from "./minutes.en";
import { passages } from "./passages.en";
import { record } from "./record.en";

/** Every text of the interface, in English. Another language is another file of the same shape. */
export const en = {
  agenda, capture, live, notes, notice, rehearsal, workspace, review, voices, words, ask, minutes, templates, record, passages,
  name: "Aftershower",
  nav: { today: "Today", library: "Library", give: "Give files", account: "Account", signOut: "Sign out", shortcuts: "Shortcuts", main: "Main", skip: "Skip to the page" },
  door: {
    title: "Sign in", signUpTitle: "Make an account", email: "E-mail", password: "Password", yourName: "Your name", enter: "Sign in", make: "Make an account", toSignUp: "No account yet? Make one",
    toSignIn: "Have an account? Sign in", forgot: "Forgotten the password?", closed: "Accounts here are made by invitation.",
    wrong: "That e-mail and password do not go together.", slow: "Too many tries. Wait a few minutes, then try again.", invited: (workspace: string) => `You are invited to ${workspace}`,
    invitedAs: (email: string) => `Your account will be ${email}.`, join: "Join", hasAccount: (email: string) => `${email} has an account. Sign in with it, then open this invitation again.`,
    passwordRule: "At least 10 characters, and not a common one.", name: "Name the workspace", nameHint: "Your team, your house: colleagues will see this name.", found: "Make it",
    reset: "Send a way back in", resetSent: "If there is an account with this e-mail, a mail is on its way to it.", newPassword: "New password", setPassword: "Set it", resetDone: "The password is changed. Sign in with it.",
    line: "What was said, by whom, what was settled, who does what.",
  },
  today: {
    ready: (title: string) => `Ready to read: ${title}`,
    title: "Today", working: "Being worked on", fresh: "New in the library", actions: "My open actions", none: "Nothing is being worked on.",
    noActions: "No action has your name on it. When one does, it stands here with its date.", due: "due", overdue: "overdue", noDue: "no date", done: "Done",
    empty: "The library is empty. Give Aftershower a recording or a transcript, and its minutes will be here.", all: "The whole library",
  },
  library: {
    title: "Library", search: "Search everything that was said", week: (day: string) => `Week of ${day}`, more: "Earlier meetings", empty: "There is no meeting here yet. Give a file, or ask a colleague to share one with you.",
    hits: (lines: number, meetings: number) => `${lines} ${lines === 1 ? "line" : "lines"} in ${meetings} ${meetings === 1 ? "meeting" : "meetings"}`,
    noHits: (words: string) => `Nobody says “${words}” in any meeting that you may see. Try another form of the word, or fewer words.`, count: (n: number) => `${n} ${n === 1 ? "line" : "lines"}`,
    hear: "Hear it", notReady: "not ready yet", all: "All meetings",
  },
  give: {
    title: "Give files", drop: "Drop recordings or transcripts here", more: "Drop more here", choose: "Choose files", kinds: "Sound, video, or a transcript as WebVTT, SRT, DOCX, plain text or JSON. Up to 4 GB and 12 hours a file; the sound of a long meeting is best as Opus or MP3.",
    monthly: (left: number, all: number) => `${left} of this month's ${all} minutes are left.`, several: (n: number) => `These ${n} files are`, together: { "": "meetings of their own", parts: "parts of one meeting, in this order", tracks: "tracks of one meeting, at the same time" } as Record<string, string>,
    coming: (n: number, percent: number) => `${n} ${n === 1 ? "file is" : "files are"} on the way, ${percent} %.`, toSay: (n: number) => `${n} ${n === 1 ? "file has" : "files have"} arrived. Say what ${n === 1 ? "it is" : "they are"}, and ${n === 1 ? "it is" : "they are"} taken in.`, taken: "Taken in:", inTurn: "Waits for its turn", length: (time: string) => `It lasts ${time}.`, estimate: (time: string) => `Ready about ${time} after it is taken in.`, proposed: (zone: string) => `Proposed from the file. ${zone}`, terms: "Names and jargon to expect", termsHint: "Separated by commas: so that they are heard right.", voices: "Voices",
    meeting: "What was it?", when: "When did it begin?", people: "Who was there?", peopleHint: "Type a name and press Enter. Voices can be named after them later.", series: "Series", seriesHint: "If it recurs: the same name each time.",
    language: "Language", second: "A second language", noSecond: "and no other", and: (language: string) => `and ${language}`, detect: "Find out", seen: "Who may see it", keep: "Take it in", arriving: (percent: number) => `${percent} % has arrived`, arrived: "It has arrived.", waitArrive: "It will be taken in as soon as it has arrived.",
    pause: "Pause", resume: "Go on", remove: "Not this one", lost: "The connection was lost. What has arrived is kept; it goes on by itself when the connection is back.",
    existing: "Open that one", again: "Keep as a second meeting", remove_person: (name: string) => `Take ${name} out`, tooLarge: "This file is larger than 4 GB. Export its sound alone, and give that.", empty: "This file is empty. Check where it came from.",
  },
  visibility: { mine: "Just me", present: "Who was there", workspace: "Everyone in the workspace" } as Record<string, string>,
  work: {
    left: (time: string) => `about ${time} left`, leave: "You may leave this page; the work goes on, and a mail tells you when it is ready.", again: "Try again", failed: "This did not work.", percent: (n: number) => `${n} %`,
    seconds: (n: number) => `${n} seconds`, minutes: (n: number) => `${n} ${n === 1 ? "minute" : "minutes"}`,
  },
  spread: {
    minutes: "Minutes", record: "Record", settings: "People and sharing", seenBy: (who: string) => `Seen by: ${who.toLowerCase()}`, play: "Play", pause: "Pause", speed: "Speed", follow: "Follow the sound", chapters: "Chapters",
    nothing: "Nothing was heard in this recording: nobody speaks in it. If that is wrong, check that the right file was given.", untimed: "This transcript came without times; those shown are estimated from the length of the text.", noSound: "There is no sound with this record: it came as a transcript.",
    none: { gist: "Nothing to sum up yet.", decisions: "The record settles nothing.", actions: "Nobody took anything on.", questions: "Nothing stayed open." } as Record<string, string>,
    write: "Write a line", correct: "Correct", remove: "Remove", save: "Keep", cancel: "Leave it", screen: "Screen", screenAt: (time: string) => `What the screen showed at ${time}`, screenOf: (n: number, of: number) => `Picture ${n} of ${of}`, screenBefore: "The one before", screenNext: "The next one", screenWhole: "Open it whole", removed: "Line removed.", undo: "Put it back", inHand: (name: string) => `In ${name}'s hand`,
    hear: (time: string) => `Hear it at ${time}`, proposed: "Perhaps also", proposedHint: "Not sure enough to state. Hear it, then say.", yes: "Yes, state it", no: "No", due: (day: string) => `by ${day}`, doneMark: (text: string) => `Done: ${text}`, openMark: (text: string) => `Open: ${text}`,
    nameVoice: (name: string) => `${name}: say who this is`, who: "Whose voice is this?", everywhere: "The name will stand everywhere in this meeting.", setName: "That's who", unname: "Not known after all", strip: "Rain strip: words a minute of each voice along the meeting", position: "Position in the recording",
    rereading: "Reading the record anew…", turnPage: "Pages", noMeeting: "There is no such meeting, or it is not shared with you.", toLibrary: "To the library", kinds: { decision: "Decision", action: "Action", done: "Action, done", question: "Question" } as Record<string, string>,
  },
  settings: { title: "People and sharing", back: "Back to the meeting", save: "Keep the changes", saved: "Kept.", remove: "Take it out of the library", removeHint: "It leaves every list and search. It can be put back.", removed: "Taken out of the library.", undo: "Put it back", name: "Title", cannot: "Only whoever gave it, or an admin, sets who may see it.", given: (name: string) => `Given by ${name}`, people: "Those who were there", peopleHint: "With a member's e-mail, that member finds this meeting when it is shared with who was there.", emailOf: (name: string) => `E-mail of ${name}`, organisation: "Organisation", organisationOf: (name: string) => `Organisation of ${name}` },
  account: {
    title: "Account", me: "Me", keep: "Keep", scheme: "Light", schemes: { auto: "As the device", day: "Day", night: "Night" } as Record<string, string>, members: "Members", invite: "Invite", inviteHint: "A mail with a way in, open for two weeks.", invited: "Invited", withdraw: "Take back",
    roles: { owner: "Owner", admin: "Admin", member: "Member", guest: "Guest" } as Record<string, string>, role: "Role", times: (zone: string) => `Times are shown for ${zone}.`, sent: (email: string) => `A mail is on its way to ${email}.`, roleOf: (name: string) => `Role of ${name}`,
  },
  shortcuts: { title: "Shortcuts", rows: [["Space", "play or pause"], [", and .", "a line back, a line on"], ["< and >", "a chapter back, a chapter on"], ["/", "search"], ["m, a and r", "to the minutes, to asking, to the record"], ["1 and 2", "Today, Library"], ["e", "correct the chosen line"], ["f", "find in the record"], ["[ and ]", "a hit back, a hit on"], ["u and U", "take a change of the record back, make it again"], ["c", "capture"], ["o", "off and on the record"], ["k", "mark what was just said, or the chosen words"], ["n, d, x and S", "comment on the chosen words, make an action of them, cut an excerpt, strike them"], ["← and →", "a word back, a word on"], ["− and +", "slower, faster"], ["?", "this list"]] as [string, string][], close: "Close" },
  problem: { network: "The server does not answer. What you wrote is still here; try again in a moment.", again: "Try again", title: "Something is in the way", page: "This page cannot be shown. Load it again; nothing is lost.", missing: "There is no such page." },
  loading: "Fetching…",
  glyphs: { decision: "decisions", action: "actions", question: "open questions" } as Record<string, string>,
};
