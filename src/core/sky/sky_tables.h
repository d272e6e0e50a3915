#pragma once
#include "core/sky/atmosphere.h"
#include <memory>

namespace mirolux {

/// Sizes of the tables, the same here and on the device.
struct SkyTableSizes {
    static constexpr int transmittanceWidth = 256, transmittanceHeight = 64;
    static constexpr int multiple = 32; // by the sun's sine, and by height
    static constexpr int ground = 64;   // by the sun's sine
    static constexpr int viewWidth = 192, viewHeight = 128;
    static constexpr int marchSteps = 32; // along a ray of the sky
};

/// A picture of values between which a table is read in straight lines.
struct ValueTable {
    int width = 0, height = 0;
    std::vector<glm::dvec3> values; // rows from the first

    /// x, y from 0 (the first texel's middle) to 1 (the last one's).
    glm::dvec3 at(double x, double y) const;
};

/// What an atmosphere does to light, whatever the sun's place: optical depths,
/// XX (S. Hillaire, A Scalable and Production Ready Sky and
/// Atmosphere Rendering Technique, 2020): transmittance to the air's end by height and elevation (in the mapping of
/// E. Bruneton and F. Neyret, Precomputed Atmospheric Scattering, 2008); light scattered twice and more as an even
/// radiance by height and the sun's elevation; and irradiance of the whole sky on level ground. The latter two for 1
/// lux above the air. Of light that scatters on, what the ground gives back is taken as even as the rest, so that air
/// and ground which swallow nothing lose nothing.
class SkyTables {
public:
    explicit SkyTables(const Atmosphere& air);
    const Atmosphere& air() const { return air_; }

    glm::dvec3 transmittance(double height, double sine) const; // 0 through the ground
    glm::dvec3 multiple(double height, double sunSine) const;
    glm::dvec3 ground(double sunSine) const; // lux of the sky for 1 lux above the air

    /// Radiance along a ray for 1 lux above the air: air, and ground where the ray meets it. once: without light that
    /// is scattered more than once, and the ground lit by the sun alone.
    glm::dvec3 radiance(double height, const glm::dvec3& direction, const glm::dvec3& toSun, double sunAngle, int steps,
                        bool once) const;
    /// What the air does between the eye and a place `metres` along a ray: radiance that it adds for 1 lux, and its
    /// transmittance.
    glm::dvec3 inscattered(double height, const glm::dvec3& direction, const glm::dvec3& toSun, double sunAngle,
                           double metres, int steps, bool once, glm::dvec3& transmittance) const;

private:
    void fill_multiple();
    void fill_ground();
    glm::dvec3 sun_at(double height, double sine, double angle) const;

    Atmosphere air_;
    ValueTable depth_, multiple_, ground_;
};

/// The tables of an atmosphere; the few asked for last are kept. From any thread.
std::shared_ptr<const SkyTables> sky_tables(const Atmosphere& air);

} // namespace mirolux
