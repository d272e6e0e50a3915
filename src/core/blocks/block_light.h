#pragma once
#include "core/account/pixel_account.h"
#include "core/blocks/block_stage.h"

// What a Blocks stage's ways make of light at a point, in double: the reference of shaders/blocks/shade.glsl, and the
// account of a pixel.
namespace mirolux::blocks {

/// A point on a cell's face.
struct FacePoint {
    glm::dvec3 position{0.0}; // metres
    int part = 0;             // 0: the still world, else a prop, plus one
    int face = 0;             // of Neighbours::directions
    std::uint8_t material = 0;
};
/// Of a pixel that was probed (gpu/frame/instruments.cpp).
FacePoint face_point(const SurfaceSample& sample);

/// Radiance that a face sends to the eye, by what gives it; cd/m2.
struct FaceLight {
    glm::dvec3 sky{0.0}, sun{0.0}, lamps{0.0}, glow{0.0};
    glm::dvec3 mirrored{0.0}; // of lamps, what the specular lobe makes of it; a part of theirs
    glm::dvec3 total() const { return sky + sun + lamps + glow; }
};

/// Everything that the light of a world at a time follows from.
class BlockLight {
public:
    BlockLight(const Scene& scene, const Setup& setup, const View& view);
    FaceLight at(const FacePoint& point) const;
    /// The part's own cell that the face belongs to, and the cell of the still world that lights it.
    glm::ivec3 cell(const FacePoint& point) const;
    glm::ivec3 before(const FacePoint& point) const;
    glm::dvec3 normal(const FacePoint& point) const;
    /// None where the way does not ask for them.
    const Flood* flood() const { return flood_.get(); }
    const OriginFlood* origins() const { return origins_.get(); }
    std::optional<CastHits> hits(const FacePoint& point) const;
    /// Null where the way casts no rays.
    const CastWorld* casts() const { return casts_.get(); }
    const World& world() const { return *world_; }
    /// The specular lobe's part of light from a direction, cd/m2. irradiance: lux across the direction; to: unit.
    glm::dvec3 mirrored(const FacePoint& point, const glm::dvec3& to, const glm::dvec3& irradiance) const;
    /// Illuminance that a level stands for, lux.
    double lux_of(double level) const { return std::pow(std::max(level, 0.0) / most_light, falloff_) * lux_; }

private:
    struct CellLight {
        glm::dvec3 lamps{0.0};
        double sky = 0, sun = 0;
    };
    CellLight cell_light(const glm::ivec3& cell) const;
    CellLight face_light(const FacePoint& point) const;
    bool stops(const glm::ivec3& cell) const;
    glm::dvec3 local(const FacePoint& point) const;

    WorldPtr world_;
    Way way_;
    Sun sun_;
    glm::dvec3 eye_, top_, side_, bottom_;
    std::vector<double> turns_;
    double lux_ = 0, falloff_ = 2, wrap_ = 0;
    bool smooth_ = false;
    CastOptions cast_;
    std::shared_ptr<const Flood> flood_;
    std::shared_ptr<const OriginFlood> origins_;
    std::shared_ptr<const CastWorld> casts_;
};

/// Why a pixel has its value; what cells that let light through lay over it is the difference to the picture.
PixelAccount block_account(const Scene& scene, const Setup& setup, const View& view, const PixelProbe& probe);

} // namespace mirolux::blocks
