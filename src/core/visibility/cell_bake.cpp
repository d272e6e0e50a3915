#include "core/base/parallel.h"
#include "core/io/file.h"
#include "core/rays/ray_scene.h"
#include "core/visibility/cells.h"
#include <algorithm>
#include <deque>
#include <random>
#include <set>

namespace mirolux {

namespace {

constexpr std::size_t most_cells = 200000;
constexpr float eye_height = 1.7f, most_step = 0.6f; // metres, of who walks

/// Cells that a point's eye may fall into when it is a hand's breadth off.
void take_around(std::set<CellPlace>& cells, const glm::vec3& point, float edge) {
    const float slack = 0.1f;
    for (int k = 0; k < 8; ++k)
        cells.insert(cell_place(point + slack * glm::vec3(k & 1 ? 1 : -1, k & 2 ? 1 : -1, k & 4 ? 1 : -1), edge));
}

std::vector<glm::vec3> eyes_of(const Project& project, float step) {
    std::vector<glm::vec3> out;
    for (const Camera& c : project.cameras)
        out.push_back(c.eye);
    out.push_back(project.view.camera.eye);
    for (const Walk& walk : project.walks) {
        if (walk.keys.empty()) continue;
        const double from = walk.keys.front().seconds, to = walk.keys.back().seconds;
        double length = 0;
        for (std::size_t k = 1; k < walk.keys.size(); ++k)
            length += glm::length(walk.keys[k].eye - walk.keys[k - 1].eye);
        const int steps =
            std::max(1, static_cast<int>(std::ceil(2 * length / step))); // a curve is longer than its chords
        for (int i = 0; i <= steps; ++i)
            out.push_back(camera_on(walk, from + (to - from) * i / steps).eye);
    }
    return out;
}

/// What can be walked to from the eyes: cell by cell over the ground, each time to a floor at most a step higher or
/// lower, where nothing that stands still lies between the eyes.
std::set<CellPlace> floor_cells(const std::vector<glm::vec3>& eyes, const Scene& scene, float edge) {
    const RayScene rays(scene);
    std::set<CellPlace> out;
    const auto standing = [&](const glm::vec3& at) -> std::optional<glm::vec3> { // where one stands below a point
        const RayHit hit = rays.nearest({at, glm::vec3(0, -1, 0)});
        if (hit.object < 0 || hit.distance > 4 * eye_height) return std::nullopt;
        return at + glm::vec3(0, eye_height - hit.distance, 0);
    };
    const auto middle = [&](const glm::vec3& eye, int dx, int dz) {
        const CellPlace p = cell_place(eye, edge);
        return glm::vec3((static_cast<float>(p.x + dx) + 0.5f) * edge, eye.y,
                         (static_cast<float>(p.z + dz) + 0.5f) * edge);
    };
    const auto key = [&](const glm::vec3& eye) { // floors of one place that lie a step apart are one
        const CellPlace p = cell_place(eye, edge);
        return CellPlace{p.x, static_cast<int>(std::floor(eye.y / (2 * most_step))), p.z};
    };
    std::set<CellPlace> been;
    std::deque<glm::vec3> open;
    for (const glm::vec3& e : eyes)
        if (const auto at = standing(e); at && been.insert(key(*at)).second) open.push_back(*at);
    while (!open.empty() && out.size() <= most_cells) {
        const glm::vec3 eye = open.front();
        open.pop_front();
        take_around(out, eye, edge);
        for (const auto& [dx, dz] : {std::pair(1, 0), {-1, 0}, {0, 1}, {0, -1}}) {
            const glm::vec3 beside = middle(eye, dx, dz), way = beside - eye;
            const float far = glm::length(way);
            if (far < 1e-3f || rays.occluded({eye, way / far}, 0, far)) continue;
            const auto at = standing(beside);
            if (!at || std::abs(at->y - eye.y) > most_step) continue;
            if (been.insert(key(*at)).second) open.push_back(*at);
        }
    }
    return out;
}

} // namespace

Cover cover_of(const Setup& setup) {
    const std::string& word = setup.choice("visibility.cover");
    return word == "floor" ? Cover::floor : word == "box" ? Cover::box : Cover::walk;
}

Result<std::vector<CellPlace>> wanted_cells(const Project& project, const Scene& scene, const Setup& setup) {
    const auto edge = static_cast<float>(setup.number("visibility.cell"));
    std::set<CellPlace> cells;
    const std::vector<glm::vec3> eyes = eyes_of(project, 0.25f * edge);
    switch (cover_of(setup)) {
    case Cover::walk:
        for (const glm::vec3& e : eyes)
            take_around(cells, e, edge);
        break;
    case Cover::floor:
        cells = floor_cells(eyes, scene, edge);
        break;
    case Cover::box: {
        const Box& b = scene.bounds();
        const CellPlace from = cell_place(b.low, edge), to = cell_place(b.high, edge);
        const double all = double(to.x - from.x + 1) * double(to.y - from.y + 1) * double(to.z - from.z + 1);
        if (all > most_cells)
            return fail("the scene's box holds " + std::to_string(static_cast<long long>(all)) +
                            " cells, more than 200,000",
                        "visibility.cell", "Take larger cells, or cells along the walk or on the floor.");
        for (int z = from.z; z <= to.z; ++z)
            for (int y = from.y; y <= to.y; ++y)
                for (int x = from.x; x <= to.x; ++x)
                    cells.insert({x, y, z});
        break;
    }
    }
    if (cells.size() > most_cells)
        return fail("there are more than 200,000 cells", "visibility.cell",
                    "Take larger cells, or cells along the walk alone.");
    if (cells.empty())
        return fail("there is no floor below any walk or camera", "visibility.cover",
                    "Take cells along the walk, or over the box.");
    return std::vector<CellPlace>(cells.begin(), cells.end());
}

std::uint64_t rays_of_cell(const Setup& setup) {
    const double side = glm::radians(setup.number("visibility.patch")),
                 confidence = setup.number("visibility.confidence");
    const double share = side * side / (4 * glm::pi<double>());
    return static_cast<std::uint64_t>(std::ceil(std::log1p(-confidence / 100) / std::log1p(-share)));
}

struct CellBake::State {
    Scene scene;
    RayScene rays;
    Stillness stillness;
    VisibleSets sets;
    std::vector<CellPlace> wanted; // those that are still to do
    std::size_t done = 0, all = 0; // of the wanted ones at first
    std::uint64_t each = 0;        // rays
    int aimed = 0;                 // more of them, to each object that was not found
    float gap = 0;
    double seconds = 0; // of this run
    std::filesystem::path file;
    std::string remark;
    std::chrono::steady_clock::time_point kept = std::chrono::steady_clock::now();

    State(const Scene& s, const Setup& setup)
        : scene(s), rays(s), stillness(stillness_of(s, setup)), each(rays_of_cell(setup)),
          aimed(setup.whole("visibility.aimed")), gap(static_cast<float>(setup.number("visibility.gap"))) {}

    bool hides(const RayHit& hit) const { return stillness.hides[static_cast<std::size_t>(hit.object)]; }
    /// How far a ray goes until something hides what lies behind.
    float reach(const Ray& ray) const {
        float from = 0;
        for (int step = 0; step < 256; ++step) {
            const RayHit hit = rays.any_surface(ray, from, true);
            if (hit.object < 0) return std::numeric_limits<float>::infinity();
            if (hides(hit)) return hit.distance;
            from = hit.distance + 1e-4f * std::max(1.0f, hit.distance);
        }
        return from;
    }
    /// Marks what a ray meets, up to what hides the rest. With gaps closed, what lies deeper than four rays beside it
    /// reach is seen through a gap only.
    void look(const Ray& ray, std::vector<std::uint64_t>& seen) const {
        float through = -1; // how far the neighbours let it see; under 0: not asked yet
        float from = 0;
        for (int step = 0; step < 256; ++step) {
            const RayHit hit = rays.any_surface(ray, from, true);
            if (hit.object < 0) return;
            const auto o = static_cast<std::size_t>(hit.object);
            if (!has_bit(seen, o)) {
                if (gap > 0 && through < 0) {
                    const glm::vec3 d = ray.direction,
                                    side = glm::normalize(
                                        glm::cross(d, std::abs(d.y) < 0.9f ? glm::vec3(0, 1, 0) : glm::vec3(1, 0, 0))),
                                    up = glm::cross(side, d);
                    through = std::numeric_limits<float>::infinity();
                    for (const glm::vec3& off : {side, -side, up, -up})
                        through = std::min(through, reach({ray.origin + 0.5f * gap * off, d}));
                }
                if (gap > 0 && hit.distance > through + 2 * gap) return;
                seen[o / 64] |= 1ull << (o % 64);
            }
            if (hides(hit)) return;
            from = hit.distance + 1e-4f * std::max(1.0f, hit.distance);
        }
    }
    /// Places in a cell that an eye may have: not within what stands there.
    std::vector<glm::vec3> eyes(const CellPlace& cell, std::mt19937& random) const {
        const float edge = sets.edge;
        const auto one = [&] { return static_cast<float>(random() >> 8) / 16777216.0f; };
        std::vector<glm::vec3> out;
        for (int i = 0; i < 256 && out.size() < 64; ++i) {
            const glm::vec3 p = edge * (glm::vec3(cell.x, cell.y, cell.z) + glm::vec3(one(), one(), one()));
            int within = 0;
            for (int k = 0; k < 6; ++k) {
                glm::vec3 d(0.0f);
                d[k / 2] = k % 2 ? 1.0f : -1.0f;
                const RayHit hit = rays.any_surface({p, d}, 0, false);
                if (hit.object >= 0 && hides(hit) && !hit.front &&
                    !scene.asset->material_of(scene.objects()[static_cast<std::size_t>(hit.object)]).doubleSided)
                    ++within;
            }
            if (within < 5) out.push_back(p);
        }
        return out;
    }
    std::vector<std::uint64_t> look_from(const CellPlace& cell) const {
        std::vector<std::uint64_t> seen((scene.objects().size() + 63) / 64, 0);
        std::seed_seq seed{cell.x, cell.y, cell.z};
        std::mt19937 random(seed);
        const std::vector<glm::vec3> from = eyes(cell, random);
        if (from.empty()) return seen; // all of it lies within walls
        // Directions uniform over the sphere, evenly spread: a sequence of R. Cranley and T. Patterson's kind on the
        // additive recurrence of the plastic number (M. Roberts, 2018).
        const double a = 0.7548776662466927, b = 0.5698402909980532, u0 = random() / 4294967296.0,
                     v0 = random() / 4294967296.0;
        for (std::uint64_t i = 0; i < each; ++i) {
            const double u = std::fmod(u0 + a * static_cast<double>(i), 1.0),
                         v = std::fmod(v0 + b * static_cast<double>(i), 1.0);
            const double y = 1 - 2 * u, r = std::sqrt(std::max(0.0, 1 - y * y)), phi = 2 * glm::pi<double>() * v;
            look({from[random() % from.size()], glm::vec3(r * std::cos(phi), y, r * std::sin(phi))}, seen);
        }
        for (std::size_t o = 0; o < scene.objects().size(); ++o)
            for (int i = 0; i < aimed && stillness.still[o] && !has_bit(seen, o); ++i)
                if (const auto to = point_of(o, random)) {
                    const glm::vec3& eye = from[random() % from.size()];
                    if (const float far = glm::length(*to - eye); far > 1e-4f) look({eye, (*to - eye) / far}, seen);
                }
        return seen;
    }
    /// A random point of an object's surface; none: it has none that is drawn.
    std::optional<glm::vec3> point_of(std::size_t object, std::mt19937& random) const {
        const Object& o = scene.objects()[object];
        const Primitive& p = scene.asset->primitives[static_cast<std::size_t>(o.primitive)];
        const std::size_t triangles = p.indices.size() / 3;
        if (triangles == 0 || o.hidden || o.proxy || o.casts == Casting::unseen) return std::nullopt;
        const std::size_t first = 3 * (random() % triangles);
        float u = static_cast<float>(random() >> 8) / 16777216.0f, v = static_cast<float>(random() >> 8) / 16777216.0f;
        if (u + v > 1) {
            u = 1 - u;
            v = 1 - v;
        }
        const auto corner = [&](std::size_t k) { return p.vertices[p.indices[first + k]].position; };
        const glm::vec3 at = (1 - u - v) * corner(0) + u * corner(1) + v * corner(2);
        return glm::vec3(o.transform * glm::vec4(at, 1));
    }
    Result<void> keep() {
        kept = std::chrono::steady_clock::now();
        return write_cells(sets, file);
    }
};

CellBake::CellBake(std::unique_ptr<State> state) : state_(std::move(state)) {}
CellBake::~CellBake() = default;

Result<std::unique_ptr<CellBake>> CellBake::begin(const Scene& scene, const Setup& setup,
                                                  std::vector<CellPlace> wanted) {
    if (scene.bakes.empty())
        return fail("there is no folder to keep cells in", "visibility", "Save the project first.");
    std::error_code error;
    std::filesystem::create_directories(scene.bakes, error);
    if (error)
        return fail("the folder of bakes cannot be made: " + error.message(), scene.bakes,
                    "Free space or take another place for the project.");
    auto state = std::make_unique<State>(scene, setup);
    state->sets.digest = cells_digest(scene, setup);
    state->sets.edge = static_cast<float>(setup.number("visibility.cell"));
    state->sets.objects = scene.objects().size();
    state->file = cells_file(scene.bakes, state->sets.digest);
    if (std::filesystem::exists(state->file)) {
        auto before = read_cells(state->file);
        if (before && before->objects == state->sets.objects && before->edge == state->sets.edge)
            state->sets = std::move(*before);
        else {
            std::filesystem::path aside = state->file;
            aside += ".damaged";
            std::filesystem::rename(state->file, aside, error);
            state->remark = (before ? "The file of visible objects did not fit" : before.error().what) +
                            "; it is set aside as " + aside.string() + ".";
        }
    }
    state->all = wanted.size();
    std::erase_if(wanted, [&](const CellPlace& p) {
        return std::binary_search(state->sets.cells.begin(), state->sets.cells.end(), p);
    });
    state->done = state->all - wanted.size();
    state->wanted = std::move(wanted);
    return std::unique_ptr<CellBake>(new CellBake(std::move(state)));
}

Result<bool> CellBake::work(double milliseconds, const std::atomic<bool>* stop) {
    State& s = *state_;
    const auto start = std::chrono::steady_clock::now();
    const auto gone = [&] { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(); };
    const int at_once = std::max(2, static_cast<int>(std::thread::hardware_concurrency()));
    do {
        const int n = std::min<int>(at_once, static_cast<int>(s.wanted.size()));
        std::vector<std::vector<std::uint64_t>> found(static_cast<std::size_t>(n));
        parallel_for(0, n, [&](int i) {
            found[static_cast<std::size_t>(i)] =
                s.look_from(s.wanted[s.wanted.size() - 1 - static_cast<std::size_t>(i)]);
        });
        for (int i = 0; i < n; ++i) {
            s.sets.put(s.wanted.back(), std::move(found[static_cast<std::size_t>(i)]));
            s.wanted.pop_back();
            s.sets.rays += s.each;
            ++s.done;
        }
    } while (!s.wanted.empty() && gone() * 1000 < milliseconds && !(stop && *stop));
    s.seconds += gone();
    s.sets.seconds += gone();
    const bool over = s.wanted.empty(), late = std::chrono::steady_clock::now() - s.kept > std::chrono::seconds(5);
    if (over || late || (stop && *stop))
        if (auto ok = s.keep(); !ok) return tl::unexpected(ok.error());
    return over;
}

Result<void> CellBake::keep() {
    return state_->keep();
}

CellBake::Progress CellBake::progress() const {
    const State& s = *state_;
    const std::size_t own = s.sets.rays / std::max<std::uint64_t>(1, s.each); // over all runs
    const double pace = own > 0 ? s.sets.seconds / static_cast<double>(own) : 0;
    return {s.done, s.all, s.seconds, pace * static_cast<double>(s.wanted.size())};
}

const VisibleSets& CellBake::sets() const {
    return state_->sets;
}
const std::filesystem::path& CellBake::file() const {
    return state_->file;
}
const std::string& CellBake::remark() const {
    return state_->remark;
}

} // namespace mirolux
