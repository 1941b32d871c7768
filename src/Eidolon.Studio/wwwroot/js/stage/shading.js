import * as THREE from "three";

// How everything solid on the Stage is shaded: one flat tone, a soft turn into shade, a thin dark line where a form turns away. Colours are mixed as
// screens show them, so that a tone is the tone of the sheet it was chosen on.

// Where a tone turns into its shade: 62° from the light, over 20°.
const turn = [Math.cos((72 * Math.PI) / 180), Math.cos((52 * Math.PI) / 180)].map((v) => v.toFixed(4));

const vertex = /* glsl */ `
#include <common>
#include <morphtarget_pars_vertex>
#include <skinning_pars_vertex>
#include <shadowmap_pars_vertex>
attribute vec3 guide;
varying vec3 vNormal;
varying vec3 vView;
varying vec3 vGuide;
#ifdef USE_COLOR
varying vec3 vColor;
#endif
#ifdef USE_MAP
varying vec2 vMapUv;
#endif
void main() {
  #include <beginnormal_vertex>
  #include <morphinstance_vertex>
  #include <morphnormal_vertex>
  #include <skinbase_vertex>
  #include <skinnormal_vertex>
  #include <defaultnormal_vertex>
  #include <begin_vertex>
  #include <morphtarget_vertex>
  #include <skinning_vertex>
  #include <project_vertex>
  #include <worldpos_vertex>
  #include <shadowmap_vertex>
  vNormal = transformedNormal;
  vView = -mvPosition.xyz;
  vGuide = guide;
  #ifdef USE_COLOR
  vColor = color.rgb;
  #endif
  #ifdef USE_MAP
  vMapUv = uv;
  #endif
}`;

const fragment = /* glsl */ `
#include <common>
#include <packing>
#include <lights_pars_begin>
#include <shadowmap_pars_fragment>
#include <shadowmask_pars_fragment>
uniform vec3 tone;
uniform vec3 shade;
uniform vec3 light;
uniform vec3 line;
uniform vec3 far;
uniform vec4 amounts; // of shade, of light, of the line, of the guide colours
uniform float width; // of the line, pixels at most
uniform float pixel; // metres at a distance of one
uniform float opacity;
varying vec3 vNormal;
varying vec3 vView;
varying vec3 vGuide;
#ifdef USE_COLOR
varying vec3 vColor;
#endif
#ifdef USE_MAP
uniform sampler2D map;
varying vec2 vMapUv;
#endif
vec3 shown(vec3 c) { return mix(c * 12.92, 1.055 * pow(max(c, vec3(1e-4)), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c)); }
void main() {
  vec3 base = tone;
  #ifdef USE_COLOR
  base *= shown(vColor);
  #endif
  #ifdef USE_MAP
  base *= shown(texture2D(map, vMapUv).rgb);
  #endif
  base = mix(base, vGuide, amounts.w * step(0.01, vGuide.r + vGuide.g + vGuide.b));
  vec3 n = normalize(vNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float away = abs(dot(n, normalize(vView)));
  float lit = dot(n, directionalLights[0].direction);
  float side = min(smoothstep(${turn[0]}, ${turn[1]}, lit), getShadowMask());
  vec3 c = mix(mix(base, shade, amounts.x), mix(base, light, amounts.y * smoothstep(0.55, 1.0, lit)), side);
  // Pixels to where the form turns away: what is left of the slope over twice its rate.
  float pixels = away / max(2.0 * length(vec2(dFdx(away), dFdy(away))), 1e-4);
  float wide = min(width, 0.0045 / (pixel * length(vView)));
  c = mix(c, line, amounts.z * (1.0 - smoothstep(wide * 0.55, wide * 1.25, pixels)) * (1.0 - smoothstep(0.3, 0.5, away)));
  c = mix(c, far, 0.75 * smoothstep(5.0, 13.0, length(vView)));
  gl_FragColor = vec4(c, opacity);
}`;

const raw = (color) => {
  const c = color.clone();
  c.convertLinearToSRGB();
  return new THREE.Vector3(c.r, c.g, c.b);
};

// Shared by everything that is drawn: how much a pixel is, metres at a distance of one metre.
export const pixel = { value: 0.0008 };

// A material for a surface of a tone. Source: the file's own material, whose picture and vertex colours are kept.
export function shaded(tone, palette, source = null, geometry = null) {
  const material = new THREE.ShaderMaterial({
    vertexShader: vertex,
    fragmentShader: fragment,
    lights: true,
    uniforms: THREE.UniformsUtils.merge([
      THREE.UniformsLib.lights,
      { tone: {}, shade: {}, light: {}, line: {}, far: {}, amounts: {}, width: { value: 1.3 }, opacity: { value: 1 } },
    ]),
  });
  material.uniforms.pixel = pixel;
  material.uniforms.tone.value = raw(tone);
  if (geometry?.attributes.color) material.vertexColors = true;
  if (source?.map) {
    material.defines = { USE_MAP: "", USE_UV: "" };
    material.uniforms.map = { value: source.map };
  }
  if (source) material.side = source.side;
  repaint(material, palette);
  return material;
}

// Everything that came from a file, in the file's own colours.
export function shadeAll(root, palette) {
  root.traverse((o) => {
    if (!o.isMesh) return;
    o.material = shaded(o.material.color ?? new THREE.Color(0xffffff), palette, o.material, o.geometry);
    o.castShadow = o.receiveShadow = true;
    o.frustumCulled = false;
  });
}

// The theme changed.
export function repaint(material, palette, guide = material.guide ?? 0) {
  const u = material.uniforms;
  material.guide = guide;
  u.shade.value = raw(new THREE.Color(palette.dark ? "#22183a" : "#46385c"));
  u.light.value = raw(new THREE.Color("#fff6e8"));
  u.line.value = raw(new THREE.Color("#120c1c"));
  u.far.value = raw(palette.far);
  u.amounts.value = new THREE.Vector4(palette.dark ? 0.46 : 0.42, 0.16, palette.dark ? 0.95 : 0.55, guide);
}

export function seeThrough(material, opacity) {
  material.transparent = opacity < 1;
  material.depthWrite = opacity >= 1;
  material.uniforms.opacity.value = opacity;
}
