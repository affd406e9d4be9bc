#pragma once
// The programs that run on the graphics side (GLSL 3.30).

namespace seedloom::app {

inline constexpr const char* kVertexShader = R"(#version 330 core
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in vec3 colour;
layout(location = 3) in vec2 uv;
// Where a copy stands, and its colour with how far that counts; what is no copy has the identity and 0.
layout(location = 4) in vec3 placeX;
layout(location = 5) in vec3 placeY;
layout(location = 6) in vec3 placeZ;
layout(location = 7) in vec3 placeMove;
layout(location = 8) in vec4 copyColour;
uniform mat4 transform;
uniform float nearer;
uniform float pointSize;
out vec3 worldNormal;
out vec3 worldPlace;
out vec3 baseColour;
out vec2 place;
void main() {
    place = uv;
    vec3 cofactors = cross(placeY, placeZ) * normal.x + cross(placeZ, placeX) * normal.y + cross(placeX, placeY) * normal.z;
    worldNormal = dot(cross(placeX, placeY), placeZ) < 0.0 ? -cofactors : cofactors;
    worldPlace = placeX * position.x + placeY * position.y + placeZ * position.z + placeMove;
    baseColour = mix(colour, copyColour.rgb, copyColour.a);
    gl_Position = transform * vec4(worldPlace, 1.0);
    gl_Position.z -= nearer * gl_Position.w;
    gl_PointSize = pointSize;
}
)";

// Soft light from the sky and a little from the ground, a key light over the viewer's left shoulder; edges are lighter and crevices darker; backs are hatched,
// so that they differ by more than colour.
inline constexpr const char* kFragmentShader = R"(#version 330 core
in vec3 worldNormal;
in vec3 worldPlace;
in vec3 baseColour;
in vec2 place;
uniform float shading;  // 0 clay, 1 attribute, 2 checker, 3 sides
uniform vec3 eye;
uniform vec3 key;
uniform float lit;
uniform vec4 tint;
uniform vec3 fadeCentre;
uniform float fadeRadius;
uniform float opacity;
uniform float shadow;   // 1: place.x says how far it can be seen
out vec4 result;
void main() {
    vec3 colour = mix(baseColour, tint.rgb, tint.a);
    if (lit > 0.5 && shading > 1.5 && shading < 2.5) {
        // Eight squares along each side of the uv square, with the lower left one marked.
        vec2 cell = floor(place * 8.0);
        float odd = mod(cell.x + cell.y, 2.0);
        colour = mix(vec3(0.93, 0.90, 0.84), vec3(0.30, 0.40, 0.55), odd);
        if (place.x < 0.125 && place.y < 0.125) colour = vec3(0.70, 0.25, 0.18);
    }
    float alpha = opacity * mix(1.0, place.x, shadow);
    if (lit > 0.5) {
        vec3 n = normalize(worldNormal);
        vec3 toEye = normalize(eye - worldPlace);
        bool back = !gl_FrontFacing;
        if (back) n = -n;
        float main = max((dot(n, key) + 0.2) / 1.2, 0.0);
        vec3 around = mix(vec3(0.47, 0.44, 0.41), vec3(0.66, 0.67, 0.69), 0.5 + 0.5 * n.y);
        float rim = pow(1.0 - max(dot(n, toEye), 0.0), 3.0);
        // Value colours must stay readable against their legend: they are shaded less than clay.
        float depth = shading > 0.5 && shading < 1.5 ? 0.5 : 1.0;
        colour *= mix(vec3(1.0), around + vec3(0.50, 0.49, 0.46) * main, depth);
        float bend = shading > 1.5 && shading < 2.5 ? 0.0 : place.x;
        colour *= 1.0 + depth * (bend < 0.0 ? 0.42 * bend : 0.16 * bend);
        colour -= rim * 0.07;
        if (shading > 2.5) colour = back ? vec3(0.80, 0.50, 0.38) * (0.6 + 0.4 * abs(n.y)) : vec3(0.86, 0.85, 0.80) * (0.62 + 0.38 * max(dot(n, key), 0.0));
        if (back) {
            float stripe = step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0));
            colour *= mix(0.62, 0.78, stripe);
        }
    }
    if (fadeRadius > 0.0) alpha *= clamp(1.0 - length(worldPlace - fadeCentre) / fadeRadius, 0.0, 1.0);
    result = vec4(colour, alpha);
}
)";

inline constexpr const char* kBackgroundVertex = R"(#version 330 core
layout(location = 0) in vec3 position;
out float height;
void main() {
    height = position.y * 0.5 + 0.5;
    gl_Position = vec4(position.xy, 0.9999, 1.0);
}
)";
inline constexpr const char* kBackgroundFragment = R"(#version 330 core
in float height;
uniform vec3 foot;
uniform vec3 top;
out vec4 result;
void main() { result = vec4(mix(foot, top, smoothstep(0.0, 1.0, height)), 1.0); }
)";

}  // namespace seedloom::app
