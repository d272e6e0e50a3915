#pragma once
#include "core/plan/settings.h"
#include "core/plan/view.h"
#include "core/scene/scene.h"
#include "core/sky/fitted_sky.h"
#include "core/sky/sky_picture.h"
#include "core/sky/sky_tables.h"
#include "core/sky/stars.h"
#include "core/sky/sun_place.h"
#include <array>

namespace mirolux {

enum class SkyKind { colors, fitted, atmosphere, file };

/// Sun or moon.
struct SkyBody {
    glm::dvec3 direction{0, 1, 0}; // unit, toward it
    double angle = 0.00925;        // radians across
    double illuminance = 0;        // lux above the air, at normal incidence

    bool operator==(const SkyBody&) const = default;
};

/// What stands over the scene, as a setup says it: a value.
struct SkySettings {
    SkyKind kind = SkyKind::colors;
    Sky colors;
    Atmosphere air;
    double turbidity = 3;
    bool once = false; // without light that the air scatters more than once
    SkyBody sun, moon;
    bool stars = true;
    StarField field;
    double airglow = 0;                                  // cd/m2
    double eye = 2;                                      // metres over the ground
    std::shared_ptr<const SkyPicture> picture = nullptr; // of `file`
    double turn = 0;                                     // radians: moves the picture to the right as seen
    double strength = 1;                                 // cd/m2 of the picture's 1
    std::string trouble{};                               // why there is no picture: two colours stand in
    std::string remark{};                                // what was done to the picture to take it in

    bool has_sun() const { return kind == SkyKind::fitted || kind == SkyKind::atmosphere; }

    /// The moon's part in the sky's own light: none by day, where it is less than a ten-thousandth.
    double moonlight() const { return sun.direction.y > 0 && sun.illuminance > 1000 ? 0.0 : moon.illuminance; }
    bool operator==(const SkySettings&) const = default;
};
SkySettings sky_settings(const Scene& scene, const Setup& setup, const View& view);
/// The picture of surroundings that a setup names (`environment.file`), turned and as strong as it says.
SkySettings environment_picture(const Scene& scene, const Setup& setup);
/// True where the sun of a picture of surroundings is left out of them, and a directional light shines for it.
bool takes_picture_sun(const Setup& setup);
/// True where that picture stands in the sky's place.
bool shows_environment(const Setup& setup);
/// The air alone: a preset or the setup's own coefficients.
Atmosphere atmosphere_of(const Setup& setup);

/// Illuminance of a body at the eye, lux at normal incidence for red, green and blue: what the air leaves of it, 0
/// under the horizon.
glm::dvec3 light_at_eye(const SkySettings& sky, const SkyBody& body);
/// The body that lights the scene: the sun, or the moon where that is the brighter one.
const SkyBody& key_body(const SkySettings& sky);

/// Number of the directional light that the sky drives: the one that `sun.light` names, else the first; none: -1.
int sky_light(const std::vector<Light>& lights, const Setup& setup);
/// The scene's lights as they shine at the view's time: moved (lights_at), and the sky's light with the direction,
/// colour, lux and size of the body that shines. What frames, truth and audits take lights from.
std::vector<Light> lights_of(const Scene& scene, const Setup& setup, const View& view);

/// What an atmosphere does between the eye and a place so many metres along a unit direction: what it lets through, and
/// the light of sun and moon that it adds, cd/m2.
struct AirBefore {
    glm::dvec3 through{1.0}, added{0.0};
};
AirBefore air_before(const SkySettings& sky, const SkyTables& tables, const glm::dvec3& direction, double metres,
                     int steps);

/// Light from a small part of all directions, for each channel: the sum of radiance times solid angle times direction.
/// What it gives to a surface that sees all of the part is exactly the product with the normal; where the horizon cuts
/// it, that of a strip as wide.
struct LightPart {
    glm::dvec3 red{0.0}, green{0.0}, blue{0.0};
    double light = 0;  // luminance times solid angle
    double spread = 0; // radians from its middle to its edge, by how much directions differ

    glm::dvec3 toward(const glm::dvec3& normal) const;
    void measure(); // its spread
};

/// Light from all directions, summed once.
struct LightSums {
    std::array<glm::dvec3, 9> harmonics{}; // of radiance, order 2
    glm::dvec3 irradiance{0.0};            // of the upper half on level ground
    std::vector<LightPart> parts;

    void enter(const glm::dvec3& direction, const glm::dvec3& light, LightPart& part); // light: times its solid angle
};
/// Sums over every texel, each with the solid angle of its place; the few asked for last are kept. From any thread.
std::shared_ptr<const LightSums> light_sums(const std::shared_ptr<const SkyPicture>& picture);
/// A direction of a picture that is turned by so many radians, from one that is not.
glm::dvec3 turned(const glm::dvec3& direction, double radians);

/// Radiance of the sky by direction. All of it is computed in double from tables of the atmosphere, the reference for
/// the device's.
class SkyModel {
public:
    explicit SkyModel(const SkySettings& settings);
    const SkySettings& settings() const { return settings_; }
    /// Null for kinds without an atmosphere.
    const std::shared_ptr<const SkyTables>& tables() const { return tables_; }

    /// Without discs and stars: what lights the scene as surroundings, cd/m2. Under the horizon: the ground.
    glm::dvec3 radiance(const glm::dvec3& direction) const;
    /// All that a pixel shows; pixelAngle: radians, over which edges of discs are even and stars spread.
    glm::dvec3 seen(const glm::dvec3& direction, double pixelAngle) const;
    /// Harmonics of order 2 of radiance(), as irradiance over pi by normal (R. Ramamoorthi and P. Hanrahan, An
    /// Efficient Representation for Irradiance Environment Maps, 2001): nine coefficients for harmonic_radiance.
    const std::array<glm::dvec3, 9>& harmonics() const { return harmonics_; }
    /// Irradiance of the upper half on level ground, lux: by its own integral, not by the harmonics.
    const glm::dvec3& irradiance() const { return irradiance_; }
    /// Its light in parts, for sums over directions.
    std::vector<LightPart> parts() const;

private:
    glm::dvec3 disc(const SkyBody& body, const glm::dvec3& direction, double pixelAngle) const;
    glm::dvec3 transmittance(double sine) const;
    glm::dvec3 radiance(const glm::dvec3& direction, int steps) const;
    void integrate();

    SkySettings settings_;
    std::shared_ptr<const SkyTables> tables_; // null for kinds without an atmosphere
    FittedSky fitted_;
    std::shared_ptr<const LightSums> sums_; // of a picture: not turned, its strength 1
    std::array<glm::dvec3, 9> harmonics_{};
    glm::dvec3 irradiance_{0.0};
};

/// The model of what stands over a scene; the few asked for last are kept. From any thread.
std::shared_ptr<const SkyModel> sky_model(const SkySettings& settings);

/// Nine coefficients by a unit normal: the sum of real harmonics of order 2.
glm::dvec3 harmonic_radiance(const std::array<glm::dvec3, 9>& coefficients, const glm::dvec3& normal);

/// Angle of a pixel at the middle of the picture, radians.
double pixel_angle(const View& view);

} // namespace mirolux
