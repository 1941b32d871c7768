import { anew, onChanged } from "./app.js";
import { Stage } from "./stage/stage.js";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";
import * as THREE from "three";

const stage = new Stage(document.querySelector(".e-stage"), null);
stage.camera.position.set(1.6, 1.5, 3.2);
stage.controls.target.set(0, 0.92, 0);
stage.controls.update();
window.eidolon = { stage };
const mesh = document.getElementById("figure-of")?.dataset.mesh;
if (mesh) {
  const gltf = await new GLTFLoader().loadAsync(mesh);
  gltf.scene.traverse((o) => {
    if (o.isSkinnedMesh) {
      o.castShadow = true;
      // A character wears its own clothes, as in its file; a performer is clay.
      const own = document.getElementById("main").dataset.page === "characters" && !!o.geometry.attributes.color;
      o.material = new THREE.MeshStandardMaterial({ vertexColors: own, color: own ? 0xffffff : stage.palette.body.C, roughness: 0.82 });
    }
  });
  stage.content.add(gltf.scene);
  stage.dirty = true;
}
document.body.dataset.ready = "true";
onChanged(anew);
