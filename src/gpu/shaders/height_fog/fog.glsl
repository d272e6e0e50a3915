// Fog that thins out upward: optical depth of an exponential along a line in closed form (C. Wenzel, 2007), no denser below its base.
// The reference in double is src/core/air/height_fog.h.
float fogColumn(float y) {
    float over = y - parameters.heightFogShape.x, height = parameters.heightFogShape.y;
    return over < 0.0 ? over : height * (1.0 - exp(-over / height));
}
void heightFog(vec3 point, bool sky, inout vec3 transmittance, inout vec3 scattered) {
    countOf(COUNTER_airEvaluations, 1u);
    float height = parameters.heightFogShape.y, eye = frame.eye.y, rise = point.y - eye, t;
    if (sky) {
        float up = normalize(point - frame.eye.xyz).y;
        t = up <= 0.0 ? 0.0 : exp(-parameters.heightFog.w * (height - fogColumn(eye)) / up);
    } else {
        float middle = 0.5 * (eye + point.y);
        float mean = abs(rise) < 0.02 ? exp(-max(middle - parameters.heightFogShape.x, 0.0) / height) : (fogColumn(point.y) - fogColumn(eye)) / rise;
        t = exp(-parameters.heightFog.w * mean * distance(point, frame.eye.xyz));
    }
    transmittance *= t;
    scattered = scattered * t + (1.0 - t) * parameters.heightFog.rgb;
}
