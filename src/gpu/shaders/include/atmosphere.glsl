// Air around a ball: media, ways through it, and its tables (S. Hillaire, 2020). The reference in double is src/core/sky/atmosphere.h and
// src/core/sky/sky_tables.h. Metres, 1/m; heights are over the ground and stay exact near it: no difference of squared radii is taken.

const float PI_SKY = 3.14159265359;
const float groundRadius = 6360e3, topRadius = 6460e3;
const float fixedSunAngle = 0.0093; // radians across, of the tables that serve every sun
const ivec2 depthsSize = ivec2(256, 64);
const int multipleSize = 32, groundSize = 64;
const int multipleSteps = 24, depthSteps = 80, marchSteps = 32;

uniform sampler2D opticalDepths;      // to the air's end by elevation and height
uniform sampler2D multipleScattering; // even radiance for 1 lux above the air
uniform sampler2D groundLight;        // lux of the sky on level ground for 1 lux above the air

struct Medium {
    vec3 rayleigh, mie, extinction;
};
Medium mediumAt(float height) {
    float molecules = exp(-height / parameters.skyRayleigh.w), drops = exp(-height / parameters.skyMie.w);
    float ozone = max(0.0, 1.0 - abs(height - parameters.skyMore.x) / parameters.skyMore.y);
    Medium m;
    m.rayleigh = parameters.skyRayleigh.rgb * molecules;
    m.mie = parameters.skyMie.rgb * drops;
    m.extinction = m.rayleigh + m.mie + parameters.skyMieAbsorption.rgb * drops + parameters.skyOzone.rgb * ozone;
    return m;
}

float rayleighPhase(float c) { return 3.0 / (16.0 * PI_SKY) * (1.0 + c * c); }
/// W. Cornette and J. Shanks, 1992.
float miePhase(float c, float g) {
    float g2 = g * g;
    return 3.0 / (8.0 * PI_SKY) * (1.0 - g2) * (1.0 + c * c) / ((2.0 + g2) * pow(max(1.0 + g2 - 2.0 * g * c, 1e-9), 1.5));
}

struct AirPath {
    float height, sine; // at its start: metres over the ground, sine of the elevation
};
float besideGround(float height) { return height * (2.0 * groundRadius + height); } // squared distance to the horizon
bool meetsGround(AirPath p) {
    float along = (groundRadius + p.height) * p.sine;
    return p.sine < 0.0 && along * along >= besideGround(p.height);
}
float pathFrom(AirPath p) {
    float over = p.height - (topRadius - groundRadius), r = groundRadius + p.height;
    float beside = over * (topRadius + r), disc = r * r * p.sine * p.sine - beside;
    return over <= 0.0 || p.sine >= 0.0 || disc < 0.0 ? 0.0 : beside / (-r * p.sine + sqrt(disc));
}
float pathEnd(AirPath p) {
    float r = groundRadius + p.height, along = r * p.sine;
    if (meetsGround(p)) {
        float beside = besideGround(p.height);
        return beside / (-along + sqrt(max(along * along - beside, 0.0)));
    }
    float over = (topRadius - r) * (topRadius + r), disc = along * along + over;
    if (disc < 0.0 || (r > topRadius && p.sine >= 0.0)) return 0.0;
    return along > 0.0 ? over / (along + sqrt(disc)) : sqrt(disc) - along;
}
float heightAt(AirPath p, float t) {
    float k = 2.0 * (groundRadius + p.height) * p.sine * t + t * t + besideGround(p.height);
    return max(k / (sqrt(max(groundRadius * groundRadius + k, 0.0)) + groundRadius), 0.0);
}
/// Sine of the elevation of a direction further along the path, where the vertical is another one.
float sineAt(AirPath p, float t, float height, float sineHere, float cosine) {
    return clamp(((groundRadius + p.height) * sineHere + t * cosine) / (groundRadius + height), -1.0, 1.0);
}

/// Places in the table of depths, 0 to 1, and what stands there (x: height, y: sine).
vec2 depthPlace(float height, float sine) {
    float most = sqrt((topRadius - groundRadius) * (topRadius + groundRadius)), rho = sqrt(besideGround(height)), r = groundRadius + height;
    float nearest = topRadius - r, along = r * sine, over = nearest * (topRadius + r), root = sqrt(max(along * along + over, 0.0));
    float above = along > 0.0 ? over / (along + root) : root - along;
    return clamp(vec2((above - nearest) / (rho + most - nearest), pow(rho / most, 1.0 / 1.5)), 0.0, 1.0);
}
vec2 depthHeightAndSine(vec2 place) {
    float most = sqrt((topRadius - groundRadius) * (topRadius + groundRadius)), rho = pow(place.y, 1.5) * most;
    float height = rho * rho / (sqrt(rho * rho + groundRadius * groundRadius) + groundRadius), r = groundRadius + height;
    float nearest = topRadius - r, d = nearest + place.x * (rho + most - nearest);
    float sine = d > 0.0 ? (most * most - rho * rho - d * d) / (2.0 * r * d) : 1.0;
    return vec2(height, clamp(sine, -1.0, 1.0));
}
vec2 texelMiddles(vec2 place, vec2 size) { return (0.5 + place * (size - 1.0)) / size; }

float horizonSine(float height) { return -sqrt(besideGround(height)) / (groundRadius + height); }
/// What comes through the air from its end; 0 through the ground.
vec3 transmittanceOut(float height, float sine) {
    if (meetsGround(AirPath(height, sine))) return vec3(0.0);
    return exp(-textureLod(opticalDepths, texelMiddles(depthPlace(height, sine), vec2(depthsSize)), 0.0).rgb);
}
/// The same of a disc that the horizon may cut.
vec3 discTransmittance(float height, float sine, float angle) {
    float least = horizonSine(height);
    float x = clamp((sine - least) * inversesqrt(1.0 - least * least) / (0.5 * angle), -1.0, 1.0);
    float share = 0.5 + 0.5 * x * (1.2732395 - 0.2732395 * x * x); // of a disc's area, to 0.01
    return exp(-textureLod(opticalDepths, texelMiddles(depthPlace(height, max(sine, least)), vec2(depthsSize)), 0.0).rgb) * share;
}
/// Sines near the horizon lie closer, where light changes fastest.
float sunPlace(float sine) { return 0.5 + 0.5 * sign(sine) * sqrt(abs(sine)); }
float sunSine(float place) { float s = 2.0 * place - 1.0; return sign(s) * s * s; }
vec3 multipleAt(float height, float sunSine) {
    vec2 place = vec2(sunPlace(sunSine), sqrt(clamp(height / (topRadius - groundRadius), 0.0, 1.0)));
    return textureLod(multipleScattering, texelMiddles(place, vec2(multipleSize)), 0.0).rgb;
}
vec3 groundAt(float sunSine) {
    return textureLod(groundLight, vec2((0.5 + sunPlace(sunSine) * float(groundSize - 1)) / float(groundSize), 0.5), 0.0).rgb;
}

/// A body that shines through the air.
struct SkyBody {
    vec3 direction;
    float angle; // radians across
    vec3 illuminance;
};
SkyBody theSun() { return SkyBody(parameters.skySun.xyz, parameters.skySun.w, vec3(parameters.skyLight.x)); }
SkyBody theMoon() { return SkyBody(parameters.skyMoon.xyz, parameters.skyMoon.w, vec3(parameters.skyGlow.x)); }

/// What a piece of air of this medium adds of a body's light, 1/m.
vec3 scatteredOf(SkyBody b, Medium m, AirPath path, float t, float height, float cosine) {
    float sine = sineAt(path, t, height, b.direction.y, cosine);
    vec3 once = (m.rayleigh * rayleighPhase(cosine) + m.mie * miePhase(cosine, parameters.skyMieAbsorption.w)) *
                discTransmittance(height, sine, b.angle);
#ifndef SKY_ONCE
    once += (m.rayleigh + m.mie) * multipleAt(height, sine);
#endif
    return once * b.illuminance;
}

/// Adds what a piece of the way from `before` to `t` metres sends of sun and moon, and takes what it keeps back.
void addPiece(AirPath path, float before, float t, float toSun, float toMoon, inout vec3 sum, inout vec3 through) {
    float at = 0.5 * (before + t), h = heightAt(path, at);
    Medium m = mediumAt(h);
    vec3 source = scatteredOf(theSun(), m, path, at, h, toSun);
#ifndef SKY_SUN_ALONE
    source += scatteredOf(theMoon(), m, path, at, h, toMoon);
#endif
    vec3 part = exp(-m.extinction * (t - before));
    sum += through * source * (1.0 - part) / max(m.extinction, vec3(1e-12));
    through *= part;
}

/// Even directions over the sphere: rows of equal height, turned against each other.
vec3 evenDirection(int row, int column, int rows, int columns) {
    float y = 1.0 - 2.0 * (float(row) + 0.5) / float(rows), ring = sqrt(1.0 - y * y);
    float turn = 2.0 * PI_SKY * (float(column) + 0.5 * float(row & 1)) / float(columns);
    return vec3(ring * cos(turn), y, ring * sin(turn));
}

/// Radiance of air, and of ground where the ray meets it, without discs and stars.
vec3 marchSky(float height, vec3 direction, int steps) {
    AirPath path = AirPath(height, direction.y);
    float from = pathFrom(path), end = pathEnd(path);
    SkyBody sun = theSun(), moon = theMoon();
    float toSun = dot(direction, sun.direction), toMoon = dot(direction, moon.direction);
    vec3 sum = vec3(0.0), through = vec3(1.0);
    float before = from;
    for (int i = 0; i < steps; ++i) {
        float u = float(i + 1) / float(steps), t = from + (end - from) * u * u * u;
        addPiece(path, before, t, toSun, toMoon, sum, through);
        before = t;
    }
    countOf(COUNTER_skySteps, uint(steps));
    if (meetsGround(path)) {
        vec3 light = vec3(0.0);
        for (int k = 0; k < 2; ++k) {
            SkyBody b = k == 0 ? sun : moon;
            float sine = sineAt(path, end, 0.0, b.direction.y, k == 0 ? toSun : toMoon);
            vec3 arrives = discTransmittance(0.0, sine, b.angle) * max(sine, 0.0);
#ifndef SKY_ONCE
            arrives += groundAt(sine);
#endif
            light += arrives * b.illuminance;
        }
        sum += through * light * parameters.skyOzone.w / PI_SKY;
    }
    return sum;
}

// The table of the sky's radiance around the eye: rows for what lies over the horizon and under it, closest to it on both sides; columns
// closest to the azimuth of the body that shines.
#ifndef VIEW_SIZE
#define VIEW_SIZE ivec2(192, 128)
#endif
const ivec2 viewSize = VIEW_SIZE;
vec2 viewPlace(vec3 direction, float height) {
    float horizon = asin(horizonSine(height)), elevation = asin(clamp(direction.y, -1.0, 1.0));
    float half_ = 0.5 * float(viewSize.y);
    float row = elevation >= horizon ? half_ + 0.5 + sqrt((elevation - horizon) / (0.5 * PI_SKY - horizon)) * (half_ - 1.0)
                                     : half_ - 0.5 - sqrt((horizon - elevation) / (0.5 * PI_SKY + horizon)) * (half_ - 1.0);
    float turn = atan(direction.x, -direction.z) - parameters.skyMore.z;
    turn -= 2.0 * PI_SKY * floor(turn / (2.0 * PI_SKY) + 0.5); // -pi to pi
    float column = 0.5 + 0.5 * sign(turn) * sqrt(abs(turn) / PI_SKY);
    return vec2(0.5 + column * float(viewSize.x - 1), row) / vec2(viewSize);
}
vec3 viewDirection(vec2 pixel, float height) { // pixel: its middle
    float horizon = asin(horizonSine(height)), half_ = 0.5 * float(viewSize.y);
    float up = clamp((pixel.y - half_ - 0.5) / (half_ - 1.0), 0.0, 1.0), down = clamp((half_ - 0.5 - pixel.y) / (half_ - 1.0), 0.0, 1.0);
    float elevation = pixel.y > half_ ? horizon + up * up * (0.5 * PI_SKY - horizon) + 1e-6 : horizon - down * down * (0.5 * PI_SKY + horizon) - 1e-6;
    float c = 2.0 * (pixel.x - 0.5) / float(viewSize.x - 1) - 1.0, azimuth = sign(c) * c * c * PI_SKY + parameters.skyMore.z;
    return vec3(sin(azimuth) * cos(elevation), sin(elevation), -cos(azimuth) * cos(elevation));
}
