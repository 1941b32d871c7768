const $ = (id) => document.getElementById(id);

// The Hold sliders: while one moves, the server answers the pose at the current frame; when the hand lets go, one entry is written.
export class HoldControls {
  constructor(page) {
    Object.assign(this, page);
    this.form = $("retarget-form");
    this.cast = Number(this.form.dataset.cast);
    this.figure = this.stage.figures.find((f) => f.info.node === this.cast);
    this.times = [];
    if (!this.figure || !window.signalR) return;
    this.connection = new window.signalR.HubConnectionBuilder()
      .withUrl("/hubs/hold", { accessTokenFactory: () => document.querySelector('meta[name="live"]').content })
      .withHubProtocol(new window.signalR.protocols.msgpack.MessagePackHubProtocol())
      .configureLogging(window.signalR.LogLevel.None)
      .build();
    this.ready = this.connection.start();
    for (const slider of this.form.querySelectorAll("input[type=range]")) {
      slider.addEventListener("input", () => this.moved());
      slider.addEventListener("change", () => this.letGo());
    }
    window.eidolon.hold = this;
  }

  parameters() {
    const place = {};
    for (const s of this.form.querySelectorAll("input[type=range]")) place[s.name.slice("place.".length)] = Number(s.value);
    return { travel: this.form.querySelector("[name=travel]:checked").value, place };
  }

  // The latest wish is asked for when the one before it was answered: a slow answer never makes a queue.
  async moved() {
    this.wanted = this.parameters();
    if (this.asking) return;
    this.asking = true;
    await this.ready;
    while (this.wanted) {
      const parameters = JSON.stringify(this.wanted),
        began = performance.now();
      this.wanted = null;
      try {
        const answer = await this.connection.invoke("Pose", Number(this.state.scene.id), this.cast, this.clock.frame, parameters);
        this.times.push(performance.now() - began);
        this.show(answer);
      } catch (e) {
        this.said(e.message.split("HubException: ").pop());
      }
    }
    this.asking = false;
  }

  show(answer) {
    const pose = answer.Pose ?? answer.pose,
      drift = answer.Drift ?? answer.drift;
    this.figure.hold(new Float32Array(pose.slice().buffer));
    for (const [role, mm] of Object.entries(drift)) {
      const number = this.form.querySelector(`[data-drift="${role}"]`);
      if (number) number.textContent = `${Math.round(mm)} mm`;
    }
    this.stage.dirty = true;
  }

  letGo() {
    this.connection.invoke("Done");
    this.run("retarget", this.parameters(), this.cast);
  }
}
