// Solid-shape lights by their planes, for the layer; the pass itself marks them by stencil. C++ side: gpu/passes/solid_lights.cpp.
struct SolidLightData {
    mat4 toUnit; // world to the unit mesh
    vec4 tint;
    ivec4 planes; // first and behind the last
};
layout(std430) readonly buffer SolidLightBuffer { SolidLightData solidLights[]; };
layout(std430) readonly buffer SolidPlaneBuffer { vec4 solidPlanes[]; }; // outward normal; w: distance from the origin

vec3 solidTint(vec3 point) {
    vec3 tint = vec3(1.0);
    for (int l = 0; l < int(parameters.cheapLights.x); ++l) {
        vec3 p = (solidLights[l].toUnit * vec4(point, 1.0)).xyz;
        bool inside = true;
        for (int i = solidLights[l].planes.x; inside && i < solidLights[l].planes.y; ++i) inside = dot(solidPlanes[i].xyz, p) <= solidPlanes[i].w;
        if (inside) tint *= solidLights[l].tint.rgb;
    }
    return tint;
}
