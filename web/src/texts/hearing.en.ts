/** Texts of the word list, the review walk and known voices, in English. */
export const words = {
  title: "Word list", intro: "Names and jargon of the team. They are expected when a meeting is heard, and near misses are put right; what was heard is kept and can be had back.",
  text: "As it is written", sounds: "Sounds like", soundsExample: "bee a trees", mistaken: "Mistaken for", mistakenExample: "to bias", add: "Put on the list", listed: "On the list", none: "No words yet. Put the names on it that come out wrong.",
  soundsLike: (list: string) => `sounds like ${list}`, mistakenFor: (list: string) => `mistaken for ${list}`, change: "Change", changeOf: (word: string) => `Change ${word}`, remove: "Take off", removeOf: (word: string) => `Take ${word} off the list`, removed: (word: string) => `${word} is off the list.`,
  offers: "Put right again and again", offer: (heard: string, meant: string, times: number) => `“${heard}” was put right as “${meant}” ${times} times.`, take: "Put it on the list", decline: "Not for the list",
};
export const review = {
  title: "Review", intro: "The lines most likely wrong come first. Two minutes here pay most.", none: "Nothing in this record is in doubt any more.", line: (n: number, of: number) => `Line ${n} of ${of}`,
  reasons: { words: "unsure words", voice: "whose voice?", overlap: "several at once", listed: "put right by the word list" } as Record<string, string>,
  hear: "Hear it", right: "It is right", fix: "Put it right", before: "The one before", next: "The next one", fixWord: (word: string) => `Put “${word}” right`, instead: (before: string) => `Instead of “${before}”`, keep: "Keep", more: "One word more", leave: "Leave it",
  takeBack: (heard: string) => `heard as “${heard}”`, takeBackHint: "Put back what was heard", keys: "Space hears the line, Enter finds it right, e puts it right, . and , go on and back.", open: "Review",
};
export const voices = {
  maybe: (name: string) => `Perhaps ${name}`, because: (text: string) => `“${text}”`, thatIs: (name: string) => `That is ${name}`, hear: "Hear this voice", recognised: "Recognised by the voice.", yes: "That is right", remember: "Know this voice from now on", consent: (name: string) => `${name} agrees that their voice is kept`, known: "This voice is known in this workspace.",
  allow: "Recognise voices in later meetings, each only with its owner's consent", title: "Known voices", intro: "What these people sound like is kept, with their consent, to recognise them in later meetings of this workspace and nowhere else.", none: "No voices are kept.", since: (when: string, by: string) => `since ${when}${by ? `, consent noted by ${by}` : ""}`, forget: "Forget", forgetOf: (name: string) => `Forget the voice of ${name}`, forgotten: "Forgotten. It cannot be had back.",
  unsure: "Whose voice this is, is not certain", overlap: "Several speak at once here",
};
