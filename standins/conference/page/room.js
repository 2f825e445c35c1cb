// The page of a room: comes in by the WebSocket, gives the microphone by WHIP, takes everybody's sound and screens by WHEP.
const $ = (id) => document.getElementById(id);
const room = decodeURIComponent(location.pathname.split("/").pop());
const people = new Map();
const taken = new Map();
const given = [];
let socket, me;

$("pass").value = new URLSearchParams(location.search).get("pass") ?? "";
const CLOSED = { 4401: "The passcode is not right.", 4404: "There is no such room.", 4429: "The room is full." };

$("door").addEventListener("submit", (event) => {
  event.preventDefault();
  const asked = new URLSearchParams({ name: $("name").value, pass: $("pass").value });
  socket = new WebSocket(`${location.origin.replace("http", "ws")}/rooms/${encodeURIComponent(room)}/events?${asked}`);
  socket.onmessage = (message) => void happened(JSON.parse(message.data));
  socket.onclose = (closed) => out(CLOSED[closed.code] ?? "You are out of the room.");
});

async function happened(event) {
  if (event.event === "lobby") $("state").textContent = "You have knocked. Somebody inside has to open.";
  if (event.event === "admitted") {
    me = event;
    $("title").textContent = event.title;
    $("state").textContent = "You are in.";
    $("door").hidden = true;
    $("room").hidden = false;
    for (const one of [...event.people, ...event.waiting.map((it) => ({ ...it, knocks: true }))]) people.set(one.id, one);
    event.chat.forEach(written);
    if ($("mic").checked) await give("whip", await navigator.mediaDevices.getUserMedia({ audio: true }));
  }
  if (event.event === "knocks") people.set(event.who.id, { ...event.who, knocks: true });
  if (event.event === "joined" || event.event === "changed") people.set(event.who.id, event.who);
  if (event.event === "left" || event.event === "gone") people.delete(event.who.id);
  if (event.event === "said" || event.event === "laid") written(event);
  if (["refused", "removed", "ended"].includes(event.event)) out({ refused: "They did not open.", removed: "You were shown out.", ended: "The call is over." }[event.event]);
  draw();
  for (const one of people.values()) {
    for (const [kind, there] of [["", one.sound], ["/screen", one.screen]]) {
      if (there && me && one.id !== me.you && !taken.has(one.id + kind)) await take(one.id, kind);
      if (!there) drop(one.id + kind);
    }
  }
  for (const key of taken.keys()) if (!people.has(key.split("/")[0])) drop(key);
}

const tell = (asked) => socket.send(JSON.stringify(asked));

async function agree(path, connection) {
  await connection.setLocalDescription(await connection.createOffer());
  if (connection.iceGatheringState !== "complete")
    await new Promise((done) => connection.addEventListener("icegatheringstatechange", () => connection.iceGatheringState === "complete" && done()));
  const answer = await fetch(`/rooms/${encodeURIComponent(room)}/${path}`, {
    method: "POST",
    headers: { Authorization: `Bearer ${me.token}`, "Content-Type": "application/sdp" },
    body: connection.localDescription.sdp,
  });
  if (answer.status !== 201) return connection.close();
  await connection.setRemoteDescription({ type: "answer", sdp: await answer.text() });
}

async function give(path, stream) {
  const connection = new RTCPeerConnection();
  for (const track of stream.getTracks()) connection.addTrack(track, stream);
  given.push({ connection, stream });
  await agree(path, connection);
}

async function take(id, kind) {
  const connection = new RTCPeerConnection();
  const seen = document.createElement(kind ? "video" : "audio");
  seen.autoplay = true;
  taken.set(id + kind, { connection, seen });
  connection.addTransceiver(kind ? "video" : "audio", { direction: "recvonly" });
  connection.ontrack = (event) => (seen.srcObject = new MediaStream([event.track]));
  if (kind) $("screens").append(seen);
  await agree(`whep/${id}${kind}`, connection);
}

function drop(key) {
  const one = taken.get(key);
  if (!one) return;
  one.connection.close();
  one.seen.remove();
  taken.delete(key);
}

function out(why) {
  $("state").textContent = why;
  $("room").hidden = true;
  $("door").hidden = false;
  for (const key of [...taken.keys()]) drop(key);
  for (const { connection, stream } of given.splice(0)) {
    connection.close();
    stream.getTracks().forEach((track) => track.stop());
  }
  people.clear();
  $("chat").replaceChildren();
  if (socket) socket.onclose = null;
}

function written(said) {
  const row = document.createElement("li");
  row.textContent = `${said.who.name}: ${said.text ?? said.name}`;
  $("chat").append(row);
}

function draw() {
  const rows = [...people.values()].map((one) => {
    const row = document.createElement("li");
    row.textContent = one.name + (one.knocks ? " knocks " : one.kind === "clerk" ? " (a program) " : "") + (one.muted ? " (silent) " : " ");
    const press = (words, asked) => {
      const button = document.createElement("button");
      button.textContent = words;
      button.setAttribute("aria-label", `${words}: ${one.name}`);
      button.onclick = () => tell(asked);
      row.append(button, " ");
    };
    if (one.knocks) {
      press("Open", { do: "open", who: one.id });
      press("Do not open", { do: "refuse", who: one.id });
    } else press("Show out", { do: "remove", who: one.id });
    return row;
  });
  $("people").replaceChildren(...rows);
}

$("quiet").onclick = () => {
  const silent = $("quiet").getAttribute("aria-pressed") !== "true";
  $("quiet").setAttribute("aria-pressed", String(silent));
  given.forEach(({ stream }) => stream.getAudioTracks().forEach((track) => (track.enabled = !silent)));
  tell({ do: "mute", muted: silent });
};
$("file").addEventListener("change", async () => {
  const [file] = $("file").files;
  if (!file) return;
  await fetch(`/rooms/${encodeURIComponent(room)}/files?${new URLSearchParams({ name: file.name })}`, {
    method: "POST",
    headers: { Authorization: `Bearer ${me.token}`, "Content-Type": "application/octet-stream" },
    body: file,
  });
  $("file").value = "";
});
$("show").onclick = async () => give("whip/screen", await navigator.mediaDevices.getDisplayMedia({ video: true }));
$("go").onclick = () => tell({ do: "leave" });
$("end").onclick = () => tell({ do: "end" });
$("say").addEventListener("submit", (event) => {
  event.preventDefault();
  if ($("text").value.trim()) tell({ do: "say", text: $("text").value });
  $("text").value = "";
});
