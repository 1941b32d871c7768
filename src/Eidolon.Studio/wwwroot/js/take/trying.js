// Something is tried while a hand is on it: the latest wish is asked for when the one before it was answered, so a slow answer never makes a queue.
export class Trying {
  constructor(shown, refused) {
    Object.assign(this, { shown, refused });
    this.times = [];
    if (!window.signalR) return;
    this.connection = new window.signalR.HubConnectionBuilder()
      .withUrl("/hubs/hold", { accessTokenFactory: () => document.querySelector('meta[name="live"]').content })
      .withHubProtocol(new window.signalR.protocols.msgpack.MessagePackHubProtocol())
      .configureLogging(window.signalR.LogLevel.None)
      .build();
    this.ready = this.connection.start();
  }

  async ask(...wish) {
    if (!this.connection) return;
    this.wanted = wish;
    if (this.asking) return;
    this.asking = true;
    while (this.wanted) {
      const wish = this.wanted,
        began = performance.now();
      this.wanted = null;
      try {
        await this.ready;
        const answer = await this.connection.invoke(...wish);
        this.times.push(performance.now() - began);
        this.shown(answer, wish);
      } catch (e) {
        this.refused(e.message.split("HubException: ").pop());
      }
    }
    this.asking = false;
  }

  // The hand let go: the next one begins on what there is then.
  done() {
    this.wanted = null;
    return this.connection?.state === "Connected" ? this.connection.invoke("Done") : undefined;
  }
}
