// The live connection: frames, how the stage is, and the commands. Every page of Record uses it.
export const connection = new signalR.HubConnectionBuilder()
  .withUrl("/hubs/live", { accessTokenFactory: () => document.querySelector('meta[name="live"]').content })
  .withHubProtocol(new signalR.protocols.msgpack.MessagePackHubProtocol())
  .withAutomaticReconnect()
  .configureLogging(signalR.LogLevel.Warning)
  .build();

// Records come with names as C# writes them; the pages use small first letters.
export function small(value) {
  if (Array.isArray(value)) return value.map(small);
  if (value === null || typeof value !== "object" || ArrayBuffer.isView(value) || value instanceof Date) return value;
  return Object.fromEntries(Object.entries(value).map(([k, v]) => [k[0].toLowerCase() + k.slice(1), small(v)]));
}

export const onStatus = (show) => connection.on("status", (s) => show(small(s)));

export async function begin(show) {
  await connection.start();
  show(small(await connection.invoke("Status")));
}

// A command that answers with an empty text when all went well.
export async function command(name, ...args) {
  try {
    return (await connection.invoke(name, ...args)) ?? "";
  } catch (e) {
    // What the studio says in words stands behind the protocol's own.
    const [, words] = e.message.split("HubException: ");
    return words ?? `The studio did not answer: ${e.message}`;
  }
}
