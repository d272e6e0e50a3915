/// A direction as surroundings lie that are not turned. C++: src/core/ambient/environment.h.
vec3 environmentDirection(vec3 d) {
    float c = parameters.environmentForm.x, s = parameters.environmentForm.y;
    return vec3(d.x * c + d.z * s, d.y, d.z * c - d.x * s);
}
