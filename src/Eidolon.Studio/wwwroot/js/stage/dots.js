import * as THREE from "three";

// Dots of markers: flat discs of their colour with a dark rim, so that two that lie over each other are two, and never smaller on the screen than
// can be told from their neighbours.

const radius = 0.0115, // metres
  least = 3.4; // pixels

const vertex = /* glsl */ `
#include <color_pars_vertex>
uniform float least; // as a share of half the picture's height
varying vec3 vTint;
varying float vFacing;
void main() {
  vec4 at = modelViewMatrix * instanceMatrix * vec4(0.0, 0.0, 0.0, 1.0);
  float scale = length(instanceMatrix[0].xyz);
  float seen = ${radius} * projectionMatrix[1][1] / (projectionMatrix[2][3] < 0.0 ? -at.z : 1.0);
  at.xyz += position * scale * max(1.0, least / seen);
  gl_Position = projectionMatrix * at;
  vFacing = normalize(position).z;
  vTint = vec3(1.0);
  #ifdef USE_INSTANCING_COLOR
  vTint = instanceColor.rgb;
  #endif
}`;

const fragment = /* glsl */ `
uniform vec3 rim;
varying vec3 vTint;
varying float vFacing;
void main() {
  gl_FragColor = vec4(mix(rim, vTint, smoothstep(0.42, 0.58, vFacing)), 1.0);
  #include <colorspace_fragment>
}`;

// So many dots as one object; each has a place, a size (0 hides it) and a colour of its own.
export function makeDots(count) {
  const material = new THREE.ShaderMaterial({
    vertexShader: vertex,
    fragmentShader: fragment,
    toneMapped: false,
    uniforms: { least: { value: 0 }, rim: { value: new THREE.Color() } },
  });
  const dots = new THREE.InstancedMesh(new THREE.SphereGeometry(radius, 16, 10), material, Math.max(1, count));
  dots.count = count;
  dots.frustumCulled = false;
  dots.instanceMatrix.setUsage(THREE.DynamicDrawUsage);
  const view = new THREE.Vector4();
  dots.onBeforeRender = (renderer) => {
    renderer.getCurrentViewport(view);
    material.uniforms.least.value = (2 * least * renderer.getPixelRatio()) / view.w;
  };
  return dots;
}
