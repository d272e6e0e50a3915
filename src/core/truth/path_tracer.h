#pragma once
#include "core/air/air.h"
#include "core/plan/view.h"
#include "core/rays/surface_point.h"
#include "core/truth/light_tree.h"
#include "core/truth/sampler.h"
#include "core/truth/scattering.h"
#include "core/truth/surroundings.h"
#include <atomic>

namespace mirolux::truth {

/// What a picture of truth holds. All but the last three are radiance in cd/m2, before exposure.
enum class Layer {
    final,            // all light
    direct,           // of punctual lights, straight to the surfaces that are seen
    diffuse,          // the same by their diffuse lobe alone
    specular,         // and by the specular one
    indirect,         // what these surfaces reflect of everything else: bounced light, emissive surfaces, surroundings
    indirectDiffuse,  // the same by their diffuse lobe alone
    indirectSpecular, // and by the specular one
    scattering,       // what the air sends toward the eye of light that comes straight from a punctual one
    visibility,       // share of one light that reaches the surface, whatever its range
    occlusion,        // share of the hemisphere, by the cosine, that nothing closes within a radius
    mirror            // metres to what a mirror in the surface's place would show; 0: nothing
};
const char* word(Layer layer);
std::optional<Layer> layer_of(const std::string& word);
/// All of them, in order.
std::vector<Layer> all_layers();
/// The last three: shares and metres, no light.
inline bool is_geometry(Layer layer) {
    return layer >= Layer::visibility;
}

struct Options {
    Layer layer = Layer::final;
    int bounces = -1; // of light, after the surface that is seen; -1: as many as it takes
    std::uint32_t seed = 1;
    Sequence sequence = Sequence::sobol;
    bool smooth = false;     // over the pixel's area; else its centre, as the frame is sampled
    bool shadows = true;     // off: lights shine through everything, as a frame without shadows has it
    bool complete = false;   // lights without range, reach and fades, as they would be; else as the frame shades them
    bool skyAround = false;  // what leaves the scene meets the sky; else the ambient light, as the frame shades it
    double clamp = 0;        // most that one bounce may bring, cd/m2; 0: whatever it is (a clamp makes truth darker)
    double housing = 0.3;    // metres around a lamp where nothing stands in its way: its own glass and shade
    int light = -1;          // of Layer::visibility: Light::id
    double radius = 1;       // of Layer::occlusion, metres
    double fade = 0;         // and over which part of it, from its end, what stands there counts less and less
    std::vector<int> dark{}; // lights that do not shine: Light::id
    bool lampsOnly = false;  // nothing else gives light: no surface, no surroundings
    bool everyLamp = false;  // the surface that is seen asks each lamp in reach, not some by chance
};

/// A question to RayScene that a path has put.
struct AskedRay {
    Ray ray;
    float from = 0, to = 0; // metres; to < 0: the nearest surface is asked for, else what comes through
    bool seen = false;      // of the nearest surface
};

/// A unidirectional path tracer over our scene values: lights chosen by a tree, emitters met by either way joined by
/// multiple importance sampling (E. Veach, Robust Monte Carlo Methods for Light Transport Simulation, 1997, the power
/// heuristic), air by free flights (uneven air by delta tracking, E. Woodcock and others, 1965; what it lets
/// through by ratio tracking, J. Novak, A. Selle and W. Jarosz, 2014) with lamps met along the way (C. Kulla and M.
/// Fajardo, Importance Sampling Techniques for Path Tracing in Participating Media, 2012, equiangular). Lights that
/// have a size are chosen a direction of, and met by chance where a lobe is sharp; surroundings that are not even are
/// chosen a direction of, too. Materials are brdf::evaluate, lights
/// normal_irradiance: the formulas that the frame's shaders are held to. Surfaces: masked ones have their holes,
/// blended ones are met as often as their alpha says, the backs of single-sided ones are passed by the eye and close
/// the way of everything else. Air ends at the sphere around the scene. Queries from any number of threads.
class PathTracer {
public:
    /// rays must hold this scene.
    PathTracer(const Scene& scene, const Setup& setup, const View& view, const Options& options,
               std::shared_ptr<const RayScene> rays);
    const View& view() const { return view_; }
    const Options& options() const { return options_; }
    /// One sample of one pixel (column, row from the top). The same for the same arguments, to the bit. Adds the rays
    /// that it took.
    glm::dvec3 sample(int x, int y, std::uint32_t number, std::uint64_t& rays) const;
    /// One sample of the light that falls on a point of a surface, on its front: irradiance in lux per channel, of what
    /// the layer counts (direct: punctual lights; indirect: everything else; final: all). `place` tells points apart:
    /// the same for the same place and number, to the bit. toward: adds, a column for each channel, the same light
    /// times the unit direction that it comes from.
    glm::dvec3 falling(const SurfacePoint& point, std::uint32_t place, std::uint32_t number, std::uint64_t& rays,
                       glm::dmat3* toward = nullptr) const;
    /// One sample of the light that arrives at a place in space from a direction, cd/m2: of what surfaces send on, what
    /// glows and the surroundings; the first surface counts as the one after the one that is seen (Options::bounces).
    glm::dvec3 arriving(const glm::vec3& place, const glm::dvec3& direction, std::uint32_t point, std::uint32_t number,
                        std::uint64_t& rays) const;
    /// The rays that this sample asks for, in order: to be timed by themselves.
    std::vector<AskedRay> rays_of(int x, int y, std::uint32_t number) const;

    /// What the air from `from` to `to` metres of a ray (infinite: as far as there is air) sends back along it of light
    /// that comes straight from lamps, cd/m2; error: of its luminance. The same for the same seed.
    struct AirLight {
        glm::dvec3 value{0.0};
        double error = 0;
        std::uint32_t samples = 0;
    };
    AirLight single_scattering(const Ray& ray, float from, float to, std::uint32_t samples, std::uint32_t seed) const;

private:
    struct Lamp {
        Light light; // its intensity as faded
        float reach = 0;
        std::size_t number = 0; // in lamps_
    };
    struct Ball { // of a lamp that has a size, for a quick no
        glm::vec3 center;
        float radius2 = 0;
        std::size_t lamp = 0;
    };
    struct Glowing { // a triangle that gives light
        int object = -1;
        std::uint32_t triangle = 0;
        glm::vec3 corner[3];
        glm::vec3 normal{0.0f};
        float area = 0;
        bool bothSides = false;
    };
    struct Path; // one sample under way

    void take_lamps();
    void take_glowing();
    void take_surroundings();
    Ray eye_ray(const glm::dvec2& pixel) const;
    glm::dvec3 run(int x, int y, std::uint32_t number, std::uint64_t& rays, std::vector<AskedRay>* asked) const;
    glm::dvec3 taken(const brdf::Lobes& lobes, double diffuse, double specular, const Path& path) const;
    bool lamps_count(const Path& path) const;
    double end_of_air(const glm::vec3& from, const glm::vec3& direction) const;
    double through_air(const glm::dvec3& from, const glm::dvec3& direction, double metres, Path& path) const;
    double mean_extinction(const glm::dvec3& from, const glm::dvec3& direction, double metres) const;
    double most_extinction(const glm::dvec3& from, const glm::dvec3& direction, double metres) const;
    double fly(Path& path, double end) const;
    float way(const glm::vec3& from, const glm::vec3& side, const glm::vec3& direction, float metres, Blocks blocks,
              Path& path) const;
    glm::dvec3 lamp_light(const Lamp& lamp, double share, const SurfacePoint& s, const Scattering& scattering,
                          Path& path) const;
    glm::dvec3 lamp_from(const Lamp& lamp, double share, const glm::dvec3& to, double density, const SurfacePoint& s,
                         const Scattering& scattering, Path& path) const;
    void lamps_by_chance(const glm::dvec3& to, double density, const SurfacePoint& s, const Scattering& scattering,
                         Path& path) const;
    glm::dvec3 glowing_light(std::size_t which, double share, const SurfacePoint& s, const Scattering& scattering,
                             Path& path) const;
    void weigh_lamps_beside(double metres, Path& path) const;
    void weigh_lamps(const SurfacePoint& s, const Scattering& scattering, Path& path) const;
    double times_asked(std::size_t lamp, const SurfacePoint& s, const Scattering& scattering, const Path& path) const;
    void lamps_on_surface(const SurfacePoint& s, const Scattering& scattering, Path& path) const;
    glm::dvec3 surrounding_light(const glm::dvec3& direction) const;
    void surroundings_on_surface(const SurfacePoint& s, const Scattering& scattering, Path& path) const;
    bool spent(const Path& path) const;
    void light_surface(const SurfacePoint& s, const Scattering& scattering, Path& path) const;
    void light_air(double metres, Path& path) const;
    void take_atmosphere(double metres, Path& path) const;
    bool meet_surface(const RayHit& hit, Path& path) const;
    bool leave_surface(const SurfacePoint& s, const Scattering& scattering, Path& path) const;
    double met_by_chance(const RayHit& hit, const SurfacePoint& s, const Path& path) const;
    Scattering scattering_of(const SurfacePoint& s, const glm::vec3& toEye) const;
    glm::dvec3 only_share(const SurfacePoint& s, Path& path) const;
    void follow(Path& path) const;

    View view_;
    Options options_;
    std::shared_ptr<const RayScene> rays_;
    std::shared_ptr<const SkyModel> sky_;
    double pixelAngle_ = 0;    // radians
    double atmosphereFar_ = 0; // metres to which the atmosphere stands before surfaces; 0: it does not
    AmbientLight ambient_;
    AirMedium air_;
    bool plainAir_ = true; // even fog, without volumes
    AirBall airBall_;
    Scattering shading_; // the setup's model
    bool optics_ = true; // materials' coats and refraction
    RangeWindow window_ = RangeWindow::squared;
    bool normalMaps_ = true;
    std::vector<Lamp> sun_, lamps_; // directional ones, and the rest
    std::vector<Ball> balls_;
    bool anySize_ = false;
    std::vector<Glowing> glowing_;
    std::vector<int> firstGlowing_; // by object: its first triangle's place in glowing_; -1: none
    std::optional<LightTree> lampTree_, glowingTree_;
    std::optional<Surroundings> surroundings_; // where light from there differs much by direction
    glm::vec3 forward_, right_, up_;           // of the camera; right and up to the picture's edge at distance 1
};

} // namespace mirolux::truth
