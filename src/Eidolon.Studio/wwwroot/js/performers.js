import { anew, onChanged } from "./app.js";
import { Stage } from "./stage/stage.js";
import { shadeAll } from "./stage/shading.js";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";

const stage = new Stage(document.querySelector(".e-stage"), null);
stage.camera.position.set(1.6, 1.5, 3.2);
stage.controls.target.set(0, 0.92, 0);
stage.controls.update();
window.eidolon = { stage };
const mesh = document.getElementById("figure-of")?.dataset.mesh;
if (mesh) {
  const gltf = await new GLTFLoader().loadAsync(mesh);
  shadeAll(gltf.scene, stage.palette);
  stage.content.add(gltf.scene);
  stage.dirty = true;
}
document.body.dataset.ready = "true";
onChanged(anew);
