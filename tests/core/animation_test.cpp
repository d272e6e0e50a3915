#include "core/motion/carried.h"
#include "core/motion/scene_at.h"
#include "core/plan/settings.h"
#include "core/rays/ray_scene.h"
#include "core/scene/project.h"
#include "core/sky/sky_model.h"
#include "support/rigs.h"
#include "support/test_main.h"
#include <QtTest>
#include <tiny_gltf.h>

using namespace mirolux;

namespace {

/// The same file as another reader has it, evaluated in double by itself: formulas from the specification, matrices as
/// plain arrays.
class Independent {
public:
    using Matrix = std::array<double, 16>; // column by column

    explicit Independent(const std::string& text) {
        tinygltf::TinyGLTF reader;
        std::string error, warning;
        ok = reader.LoadASCIIFromString(&model, &error, &warning, text.data(), static_cast<unsigned>(text.size()), "");
        // It passes over channels that point: those are taken from the text.
        const auto document = nlohmann::json::parse(text);
        for (const auto& a : document["animations"])
            for (const auto& c : a["channels"]) {
                const auto& target = c["target"];
                Channel channel{a["name"], target["path"], target.value("node", -1), c["sampler"]};
                if (channel.path == "pointer") {
                    channel.path = target["extensions"]["KHR_animation_pointer"]["pointer"];
                    if (channel.path.rfind("/nodes/", 0) == 0) {
                        channel.node = std::atoi(channel.path.c_str() + 7);
                        channel.path = channel.path.substr(channel.path.rfind('/') + 1);
                    }
                }
                channels.push_back(channel);
            }
    }
    bool ok = false;
    tinygltf::Model model;
    struct Channel {
        std::string clip, path;
        int node, sampler;
    };
    std::vector<Channel> channels;
    const tinygltf::AnimationSampler& sampler_of(const Channel& c) const {
        for (const auto& a : model.animations)
            if (a.name == c.clip) return a.samplers[static_cast<std::size_t>(c.sampler)];
        qFatal("no such clip");
    }

    std::vector<double> numbers(int accessor) const {
        const auto& a = model.accessors[static_cast<std::size_t>(accessor)];
        const auto& v = model.bufferViews[static_cast<std::size_t>(a.bufferView)];
        const unsigned char* p = model.buffers[0].data.data() + v.byteOffset + a.byteOffset;
        const std::size_t n =
            a.count * static_cast<std::size_t>(tinygltf::GetNumComponentsInType(static_cast<unsigned>(a.type)));
        std::vector<double> out(n);
        for (std::size_t i = 0; i < n; ++i)
            out[i] = a.componentType == TINYGLTF_COMPONENT_TYPE_FLOAT
                         ? double(reinterpret_cast<const float*>(p)[i])
                         : double(reinterpret_cast<const std::uint16_t*>(p)[i]);
        return out;
    }

    static void unit(std::vector<double>& q) {
        const double l = std::sqrt(q[0] * q[0] + q[1] * q[1] + q[2] * q[2] + q[3] * q[3]);
        for (double& v : q)
            v /= l;
    }

    /// A sampler's value; n: its numbers at a key.
    std::vector<double> sample(const tinygltf::AnimationSampler& s, std::size_t n, double t, bool turns) const {
        const auto times = numbers(s.input), values = numbers(s.output);
        const bool cubic = s.interpolation == "CUBICSPLINE";
        const auto at = [&](std::size_t key, int part) { // part -1 before, 0 value, 1 after
            const std::size_t first = cubic ? n * (3 * key + static_cast<std::size_t>(part + 1)) : n * key;
            return std::vector<double>(values.begin() + static_cast<std::ptrdiff_t>(first),
                                       values.begin() + static_cast<std::ptrdiff_t>(first + n));
        };
        std::vector<double> out;
        if (t <= times.front())
            out = at(0, 0);
        else if (t >= times.back())
            out = at(times.size() - 1, 0);
        else {
            std::size_t k = 0;
            while (times[k + 1] <= t)
                ++k;
            const double d = times[k + 1] - times[k], u = (t - times[k]) / d;
            const auto a = at(k, 0), b = at(k + 1, 0);
            out = a;
            if (cubic) {
                const auto m0 = at(k, 1), m1 = at(k + 1, -1);
                // Bernstein's form of the same curve.
                for (std::size_t c = 0; c < n; ++c) {
                    const double p0 = a[c], p1 = a[c] + d * m0[c] / 3, p2 = b[c] - d * m1[c] / 3, p3 = b[c];
                    const double v = 1 - u;
                    out[c] = v * v * v * p0 + 3 * v * v * u * p1 + 3 * v * u * u * p2 + u * u * u * p3;
                }
            } else if (s.interpolation == "LINEAR") {
                if (turns) {
                    double dot = 0;
                    for (int c = 0; c < 4; ++c)
                        dot += a[static_cast<std::size_t>(c)] * b[static_cast<std::size_t>(c)];
                    const double sign = dot < 0 ? -1 : 1, angle = std::acos(std::min(1.0, std::abs(dot)));
                    for (std::size_t c = 0; c < 4; ++c)
                        out[c] = angle < 1e-9 ? a[c]
                                              : std::sin((1 - u) * angle) / std::sin(angle) * a[c] +
                                                    sign * std::sin(u * angle) / std::sin(angle) * b[c];
                } else
                    for (std::size_t c = 0; c < n; ++c)
                        out[c] = a[c] + u * (b[c] - a[c]);
            }
        }
        if (turns) unit(out);
        return out;
    }

    static Matrix product(const Matrix& a, const Matrix& b) {
        Matrix m{};
        for (int c = 0; c < 4; ++c)
            for (int r = 0; r < 4; ++r)
                for (int k = 0; k < 4; ++k)
                    m[static_cast<std::size_t>(4 * c + r)] +=
                        a[static_cast<std::size_t>(4 * k + r)] * b[static_cast<std::size_t>(4 * c + k)];
        return m;
    }
    static std::array<double, 3> times(const Matrix& m, const double* p) {
        std::array<double, 3> out{};
        for (std::size_t r = 0; r < 3; ++r)
            out[r] = m[r] * p[0] + m[4 + r] * p[1] + m[8 + r] * p[2] + m[12 + r];
        return out;
    }

    struct Values {
        std::vector<double> t, r, s, weights;
    };
    /// The nodes' values at a time of one clip; "": none plays.
    std::vector<Values> values(const std::string& clip, double t) const {
        std::vector<Values> out;
        for (const auto& n : model.nodes) {
            Values v{n.translation, n.rotation, n.scale, n.weights};
            if (v.t.empty()) v.t = {0, 0, 0};
            if (v.r.empty()) v.r = {0, 0, 0, 1};
            if (v.s.empty()) v.s = {1, 1, 1};
            if (v.weights.empty() && n.mesh >= 0) v.weights = model.meshes[static_cast<std::size_t>(n.mesh)].weights;
            out.push_back(v);
        }
        for (const Channel& c : channels) {
            if (c.clip != clip || c.node < 0) continue;
            Values& v = out[static_cast<std::size_t>(c.node)];
            if (c.path == "translation") v.t = sample(sampler_of(c), 3, t, false);
            if (c.path == "rotation") v.r = sample(sampler_of(c), 4, t, true);
            if (c.path == "scale") v.s = sample(sampler_of(c), 3, t, false);
            if (c.path == "weights") v.weights = sample(sampler_of(c), v.weights.size(), t, false);
        }
        return out;
    }
    std::vector<double> light_value(const std::string& clip, const std::string& value, std::size_t n, double t) const {
        for (const Channel& c : channels)
            if (c.clip == clip && c.path == "/extensions/KHR_lights_punctual/lights/0/" + value)
                return sample(sampler_of(c), n, t, false);
        qFatal("no such channel");
    }
    Matrix local(const Values& v) const {
        const double x = v.r[0], y = v.r[1], z = v.r[2], w = v.r[3];
        const double turn[3][3] = {{1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)},
                                   {2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)},
                                   {2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y)}};
        Matrix m{};
        for (std::size_t c = 0; c < 3; ++c)
            for (std::size_t r = 0; r < 3; ++r)
                m[4 * c + r] = turn[c][r] * v.s[c];
        for (std::size_t r = 0; r < 3; ++r)
            m[12 + r] = v.t[r];
        m[15] = 1;
        return m;
    }
    std::vector<Matrix> world(const std::vector<Values>& values) const {
        std::vector<Matrix> out(values.size());
        const std::function<void(int, const Matrix&)> go = [&](int n, const Matrix& above) {
            out[static_cast<std::size_t>(n)] = product(above, local(values[static_cast<std::size_t>(n)]));
            for (const int c : model.nodes[static_cast<std::size_t>(n)].children)
                go(c, out[static_cast<std::size_t>(n)]);
        };
        for (const int n : model.scenes[0].nodes)
            go(n, {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1});
        return out;
    }
    /// World positions of a node's mesh.
    std::vector<std::array<double, 3>> positions(int node, const std::vector<Values>& values) const {
        const auto at = world(values);
        const auto& n = model.nodes[static_cast<std::size_t>(node)];
        const auto& p = model.meshes[static_cast<std::size_t>(n.mesh)].primitives[0];
        auto rest = numbers(p.attributes.at("POSITION"));
        for (std::size_t s = 0; s < p.targets.size(); ++s) {
            const auto delta = numbers(p.targets[s].at("POSITION"));
            for (std::size_t i = 0; i < rest.size(); ++i)
                rest[i] += values[static_cast<std::size_t>(node)].weights[s] * delta[i];
        }
        std::vector<std::array<double, 3>> out;
        for (std::size_t v = 0; v < rest.size() / 3; ++v) {
            if (n.skin < 0) {
                out.push_back(times(at[static_cast<std::size_t>(node)], &rest[3 * v]));
                continue;
            }
            const auto& skin = model.skins[static_cast<std::size_t>(n.skin)];
            const auto toJoint = numbers(skin.inverseBindMatrices);
            std::array<double, 3> sum{};
            for (int set = 0; p.attributes.count("JOINTS_" + std::to_string(set)); ++set) {
                const auto joints = numbers(p.attributes.at("JOINTS_" + std::to_string(set))),
                           shares = numbers(p.attributes.at("WEIGHTS_" + std::to_string(set)));
                for (std::size_t k = 0; k < 4; ++k) {
                    const auto j = static_cast<std::size_t>(joints[4 * v + k]);
                    Matrix bind;
                    std::copy_n(toJoint.begin() + static_cast<std::ptrdiff_t>(16 * j), 16, bind.begin());
                    const auto moved = times(product(at[static_cast<std::size_t>(skin.joints[j])], bind), &rest[3 * v]);
                    for (std::size_t c = 0; c < 3; ++c)
                        sum[c] += shares[4 * v + k] * moved[c];
                }
            }
            out.push_back(sum);
        }
        return out;
    }
};

Scene scene_of_asset(const std::shared_ptr<const SceneAsset>& asset, const std::vector<ClipPlay>& clips) {
    Scene s{asset, asset->lights, {}, {}};
    s.clips = clips;
    return s;
}

/// The object of a node's mesh.
std::size_t object_of(const SceneAsset& asset, int node) {
    for (std::size_t o = 0; o < asset.objectNames.size(); ++o)
        if (asset.objectNames[o].node == node) return o;
    return 0;
}

double farthest(const std::vector<std::array<double, 3>>& theirs, const Scene& scene, std::size_t object) {
    const auto& ours = vertices_of(scene, object);
    if (ours.size() != theirs.size()) return 1e9;
    double most = 0;
    for (std::size_t v = 0; v < ours.size(); ++v) {
        const glm::vec4 world = scene.objects()[object].transform * glm::vec4(ours[v].position, 1);
        for (int c = 0; c < 3; ++c)
            most = std::max(most, std::abs(double(world[c]) - theirs[v][static_cast<std::size_t>(c)]));
    }
    return most;
}

std::string warnings_of(const SceneAsset& asset) {
    std::string out;
    for (const std::string& w : asset.warnings)
        out += w + "\n";
    return out;
}

} // namespace

class animation_test : public QObject {
    Q_OBJECT
private slots:
    void nodes_bones_and_shapes_agree_with_an_independent_evaluation() {
        double worstMatrix = 0, worstPosition = 0, moved = 0;
        for (unsigned seed = 1; seed <= 8; ++seed) {
            const MovingScene file(seed, seed % 2 ? 2 : 1);
            const auto asset = file.import();
            QVERIFY2(asset.has_value(), asset ? "" : to_text(asset.error()).c_str());
            QVERIFY2((*asset)->warnings.empty(), warnings_of(**asset).c_str());
            const Independent other(file.text());
            QVERIFY(other.ok);
            std::mt19937 random(seed);
            std::uniform_real_distribution<double> time(-0.5, 6);
            for (int i = 0; i < 25; ++i) { // 200 times in all
                const double t = time(random);
                const char* clip = i % 3 == 0 ? "drift" : "all";
                ClipPlay play{clip};
                play.loop = false;
                const Scene scene = scene_at(scene_of_asset(*asset, {play}), t);
                const auto values = other.values(clip, t);
                const auto world = other.world(values);
                const Pose& pose = *pose_of(*scene.asset, scene.placed.get());
                for (std::size_t n = 0; n < world.size(); ++n)
                    for (int k = 0; k < 16; ++k)
                        worstMatrix = std::max(
                            worstMatrix, std::abs(pose.world[n][k / 4][k % 4] - world[n][static_cast<std::size_t>(k)]));
                for (const int node : {file.barNode, file.plateNode}) {
                    const std::size_t o = object_of(**asset, node);
                    worstPosition = std::max(worstPosition, farthest(other.positions(node, values), scene, o));
                    moved = std::max(moved, farthest(other.positions(node, values), scene_of_asset(*asset, {}), o));
                }
            }
        }
        qInfo("matrices differ by %.2g at most, positions by %.2g m; they moved by %.2f m", worstMatrix, worstPosition,
              moved);
        QVERIFY(worstMatrix < 1e-4 && worstPosition < 1e-4);
        QVERIFY(moved > 0.5);
    }

    void bounds_hold_what_is_bent_and_not_much_more() {
        const MovingScene file(11);
        const auto asset = file.import();
        QVERIFY(asset.has_value());
        double most = 0;
        for (double t = 0; t < 6; t += 0.13) {
            const Scene scene = scene_at(scene_of_asset(*asset, {{"all"}}), t);
            for (std::size_t o = 0; o < scene.objects().size(); ++o) {
                const Object& object = scene.objects()[o];
                Box tight;
                for (const Vertex& v : vertices_of(scene, o))
                    tight.add(glm::vec3(object.transform * glm::vec4(v.position, 1)));
                for (int c = 0; c < 3; ++c) {
                    QVERIFY(object.bounds.low[c] <= tight.low[c] + 1e-5f);
                    QVERIFY(object.bounds.high[c] >= tight.high[c] - 1e-5f);
                }
                QVERIFY(scene.bounds().low.x <= tight.low.x + 1e-5f && scene.bounds().high.y >= tight.high.y - 1e-5f);
                most = std::max(most, double(glm::length(object.bounds.size()) / glm::length(tight.size())));
            }
        }
        qInfo("boxes are up to %.2f times as long as what they hold", most);
        QVERIFY(most < 6); // random shares: every joint moves vertices all along the bar
    }

    void clips_that_change_the_same_are_mixed_by_their_shares() {
        const MovingScene file(5);
        const auto asset = file.import();
        QVERIFY(asset.has_value());
        const Independent other(file.text());
        const Rig& rig = *(*asset)->rig;
        double worst = 0;
        for (double t = 0; t < 4; t += 0.31) {
            ClipPlay a{"all"}, b{"drift"};
            a.loop = b.loop = false;
            a.share = 0.75, b.share = 0.25;
            const auto pose = make_pose(rig, {a, b}, t);
            const auto va = other.values("all", t), vb = other.values("drift", t);
            auto mixed = va;
            for (std::size_t n = 0; n < mixed.size(); ++n) {
                const auto mean = [](std::vector<double>& x, const std::vector<double>& y) {
                    for (std::size_t c = 0; c < x.size(); ++c)
                        x[c] = 0.75 * x[c] + 0.25 * y[c];
                };
                mean(mixed[n].t, vb[n].t);
                mean(mixed[n].s, vb[n].s);
                mean(mixed[n].weights, vb[n].weights);
                double dot = 0;
                for (std::size_t c = 0; c < 4; ++c)
                    dot += va[n].r[c] * vb[n].r[c];
                for (std::size_t c = 0; c < 4; ++c)
                    mixed[n].r[c] = 0.75 * va[n].r[c] + (dot < 0 ? -0.25 : 0.25) * vb[n].r[c];
                Independent::unit(mixed[n].r);
            }
            const auto world = other.world(mixed);
            for (std::size_t n = 0; n < world.size(); ++n)
                for (int k = 0; k < 16; ++k)
                    worst =
                        std::max(worst, std::abs(pose->world[n][k / 4][k % 4] - world[n][static_cast<std::size_t>(k)]));
        }
        QVERIFY2(worst < 1e-4, qPrintable(QString::number(worst)));
    }

    void clips_play_by_themselves_where_they_do_not_meet() {
        const auto asset = MovingScene(5).import();
        QVERIFY(asset.has_value());
        const auto usual = usual_clips(*(*asset)->rig);
        QCOMPARE(usual.size(), std::size_t(3));
        QVERIFY(usual[0].on && !usual[1].on && !usual[2].on); // all three turn the bones
        // Apart from each other they would all play.
        Rig apart;
        apart.clips = (*asset)->rig->clips;
        std::erase_if(apart.clips[0].channels, [](const ClipChannel& c) { return c.what == Animated::rotation; });
        std::erase_if(apart.clips[2].channels, [](const ClipChannel&) { return true; });
        const auto both = usual_clips(apart);
        QVERIFY(both[0].on && both[1].on && both[2].on);
    }

    void time_within_a_clip_loops_stops_and_runs_backward() {
        Clip clip{"swing", 4, {}};
        ClipPlay play{"swing"};
        QCOMPARE(time_in(clip, play, 5), 1.0);
        QCOMPARE(time_in(clip, play, -1), 3.0);
        play.speed = 2;
        QCOMPARE(time_in(clip, play, 1.5), 3.0);
        play.offset = 2;
        QCOMPARE(time_in(clip, play, 1.5), 1.0);
        play = {"swing"};
        play.speed = -1;
        QCOMPARE(time_in(clip, play, 1), 3.0);
        play = {"swing"};
        play.loop = false;
        QCOMPARE(time_in(clip, play, 9), 4.0);
        QCOMPARE(time_in(clip, play, -9), 0.0);
        clip.seconds = 0;
        QCOMPARE(time_in(clip, play, 9), 0.0);
    }

    void lights_follow_their_nodes_and_values_and_keep_edits() {
        const MovingScene file(7);
        const auto asset = file.import();
        QVERIFY(asset.has_value());
        const Independent other(file.text());
        ClipPlay play{"all"};
        play.loop = false;
        for (double t = 0.1; t < 4; t += 0.37) {
            Scene scene = scene_of_asset(*asset, {play});
            const Light l = lights_at(scene, t).front();
            const auto values = other.values("all", t);
            const auto world = other.world(values)[static_cast<std::size_t>(file.lampNode)];
            double backward = 0;
            for (std::size_t c = 0; c < 3; ++c)
                backward += world[8 + c] * world[8 + c];
            for (int c = 0; c < 3; ++c) {
                QVERIFY(std::abs(l.position[c] - world[12 + static_cast<std::size_t>(c)]) < 1e-4);
                QVERIFY(std::abs(l.direction[c] + world[8 + static_cast<std::size_t>(c)] / std::sqrt(backward)) < 1e-4);
            }
            const auto color = other.light_value("all", "color", 3, t);
            for (int c = 0; c < 3; ++c)
                QVERIFY(std::abs(l.color[c] - std::max(0.0, color[static_cast<std::size_t>(c)])) < 1e-4);
            const double candela = other.light_value("all", "intensity", 1, t).front();
            QVERIFY(std::abs(l.intensity - candela) < 1e-3);
            QVERIFY(std::abs(l.range - other.light_value("all", "range", 1, t).front()) < 1e-4);
            QVERIFY(std::abs(l.outerConeAngle - other.light_value("all", "spot/outerConeAngle", 1, t).front()) < 1e-4);
            // Twice as bright by hand stays twice as bright; put aside by hand it is carried along.
            scene.lights[0].intensity *= 2;
            QVERIFY(std::abs(lights_at(scene, t).front().intensity - 2 * candela) < 2e-3);
            scene.lights[0].position += glm::vec3(1, 0, 0);
            const glm::vec3 aside = lights_at(scene, t).front().position - l.position;
            QVERIFY(std::abs(glm::length(aside) - 1.0f) < 1e-4f);
            // What a hand does to it where it stands is done there.
            const Light base = (*asset)->lights[0], from = carried(scene_of_asset(*asset, {play}), base, t);
            Light to = from;
            to.position += glm::vec3(0.5f, -1, 2);
            to.direction = glm::normalize(to.direction + glm::vec3(0.3f, 0.1f, -0.2f));
            to.range *= 2;
            to.outerConeAngle += 0.05f;
            const Scene plain = scene_of_asset(*asset, {play});
            const Light there = carried(plain, put_back(plain, base, from, to, t), t);
            QVERIFY(glm::length(there.position - to.position) < 1e-4f);
            QVERIFY(glm::length(there.direction - to.direction) < 1e-4f);
            QVERIFY(std::abs(there.range - to.range) < 1e-3f &&
                    std::abs(there.outerConeAngle - to.outerConeAngle) < 1e-4f);
            QCOMPARE(put_back(plain, base, from, to, t).intensity, base.intensity);
            // The planner and the rays' light list see the same.
            View view;
            view.seconds = t;
            QCOMPARE(lights_of(scene, Setup(), view).front().position, lights_at(scene, t).front().position);
            QCOMPARE(camera_at(scene, 0, t).eye.x,
                     static_cast<float>(other.world(values)[static_cast<std::size_t>(file.cameraNode)][12]));
        }
        const Scene scene = scene_of_asset(*asset, {play});
        const Camera there = camera_at(scene, 0, 1);
        QVERIFY(!(there == (*asset)->cameras[0]));
        QCOMPARE(followed(scene, there, 1, 2).eye, camera_at(scene, 0, 2).eye);
        Camera own = there;
        own.eye.x += 1; // led by hand since
        QCOMPARE(followed(scene, own, 1, 2).eye, own.eye);
    }

    void the_scene_at_a_time_is_one_value_and_keeps_edits() {
        const MovingScene file(3);
        const auto asset = file.import();
        QVERIFY(asset.has_value());
        const Scene still = scene_of_asset(*asset, {});
        const Scene one = scene_at(still, 1.5), again = scene_at(still, 1.5), after = scene_at(one, 2.5);
        QVERIFY(one.placed && one.placed == again.placed && after.placed != one.placed);
        QVERIFY(scene_at(after, 1.5).placed == one.placed); // whatever it was placed at before
        QVERIFY(after.placed->pose->seconds == 2.5);
        const std::size_t plate = object_of(**asset, file.plateNode);
        ObjectEdit edit{(*asset)->objectNames[plate].id, "plate"};
        edit.translation = {0, 2, 0};
        Scene edited = still;
        edited.placed = place_objects(**asset, {edit});
        const Scene both = scene_at(edited, 1.5);
        QVERIFY(glm::length(glm::vec3(both.objects()[plate].transform[3] - one.objects()[plate].transform[3]) -
                            glm::vec3(0, 2, 0)) < 1e-5f);
        QCOMPARE(both.placed->edits.size(), std::size_t(1));
        // A body that is edited has its box about it, too, at rest and in a pose.
        ObjectEdit lift{(*asset)->objectNames[object_of(**asset, file.barNode)].id, "bar"};
        lift.translation = {0, 3, 0};
        for (const double t : {-1.0, 1.5}) {
            Scene lifted = still;
            lifted.placed = place_objects(**asset, {lift});
            if (t > 0) lifted = scene_at(lifted, t);
            const std::size_t bar = object_of(**asset, file.barNode);
            const Object& o = lifted.objects()[bar];
            for (const Vertex& v : vertices_of(lifted, bar)) {
                const glm::vec3 p(o.transform * glm::vec4(v.position, 1));
                for (int c = 0; c < 3; ++c)
                    QVERIFY(p[c] > o.bounds.low[c] - 1e-4f && p[c] < o.bounds.high[c] + 1e-4f);
            }
        }
        // Nothing plays: as the file places it.
        ClipPlay off{"all"};
        off.on = false;
        Scene none = edited;
        none.clips = {off};
        QVERIFY(scene_at(none, 1.5).placed == edited.placed);
        const auto moves = movers(edited);
        QVERIFY(moves[plate] == Moves::byClip && moves[object_of(**asset, file.barNode)] == Moves::byClip);
        QVERIFY(movers(none)[plate] == Moves::byHand);
        QVERIFY(movers(scene_of_asset(*asset, {off}))[plate] == Moves::still);
    }

    void rays_meet_surfaces_as_they_are_bent() {
        const MovingScene file(9);
        const auto asset = file.import();
        QVERIFY(asset.has_value());
        RayScene rays(scene_of_asset(*asset, {}));
        std::mt19937 random(4);
        std::uniform_real_distribution<float> place(-1, 1);
        int met = 0;
        for (double t = 0; t < 4; t += 0.5) {
            const Scene scene = scene_at(scene_of_asset(*asset, {}), t);
            rays.place(scene);
            for (int i = 0; i < 200; ++i) {
                const Box& b = scene.objects()[static_cast<std::size_t>(i % 2)].bounds;
                const glm::vec3 at =
                    b.center() + 0.5f * b.size() * glm::vec3(place(random), place(random), place(random));
                const glm::vec3 from =
                    at + 5.0f * glm::normalize(glm::vec3(place(random), place(random), place(random)) + 1e-3f);
                const Ray ray{from, glm::normalize(at - from)};
                // Every triangle, one after the other (T. Moeller and B. Trumbore, 1997).
                double nearest = 1e30;
                for (std::size_t o = 0; o < scene.objects().size(); ++o) {
                    const Primitive& p = (*asset)->primitives[static_cast<std::size_t>(scene.objects()[o].primitive)];
                    const auto& v = vertices_of(scene, o);
                    for (std::size_t k = 0; k + 2 < p.indices.size(); k += 3) {
                        glm::dvec3 c[3];
                        for (std::size_t j = 0; j < 3; ++j)
                            c[j] =
                                glm::dvec3(scene.objects()[o].transform * glm::vec4(v[p.indices[k + j]].position, 1));
                        const glm::dvec3 d(ray.direction), e1 = c[1] - c[0], e2 = c[2] - c[0], h = glm::cross(d, e2);
                        const double det = glm::dot(e1, h);
                        if (std::abs(det) < 1e-12) continue;
                        const glm::dvec3 s = glm::dvec3(ray.origin) - c[0], q = glm::cross(s, e1);
                        const double u = glm::dot(s, h) / det, w = glm::dot(d, q) / det, far = glm::dot(e2, q) / det;
                        if (u >= 0 && w >= 0 && u + w <= 1 && far > 0) nearest = std::min(nearest, far);
                    }
                }
                const RayHit hit = rays.any_surface(ray, 0, false);
                if (nearest > 1e29) {
                    QVERIFY(hit.object < 0 || hit.distance > 0); // an edge may be met by one of the two
                    continue;
                }
                if (hit.object < 0) continue;
                ++met;
                QVERIFY2(std::abs(hit.distance - nearest) < 2e-3 || hit.distance > nearest - 2e-3,
                         qPrintable(QString("%1 %2").arg(hit.distance).arg(nearest)));
                QVERIFY(std::abs(hit.distance - nearest) < 2e-3);
            }
        }
        QVERIFY2(met > 300, qPrintable(QString::number(met)));
    }

    void files_with_faults_open_and_tell_of_them() {
        const auto with = [](const auto& change) {
            MovingScene file(2);
            change(file);
            return file.import();
        };
        using J = nlohmann::json;
        const auto told = [&](const auto& change, const char* word) {
            const auto asset = with(change);
            if (!asset) return QString("refused: ") + QString::fromStdString(to_text(asset.error()));
            return QString::fromStdString(warnings_of(**asset)).contains(word) ? QString() : QString("not told");
        };
        const auto sampler = [](MovingScene& f, std::size_t s) -> J& { return f.json["animations"][0]["samplers"][s]; };
        QCOMPARE(told(
                     [&](MovingScene& f) {
                         sampler(f, 0)["input"] = f.floats({0, 1, 0.5f, 2, 3}, "SCALAR", 1);
                     },
                     "is not after"),
                 QString());
        QCOMPARE(told(
                     [&](MovingScene& f) {
                         sampler(f, 0)["input"] = f.floats({0, 1}, "SCALAR", 1);
                     },
                     "values where"),
                 QString());
        QCOMPARE(told([&](MovingScene& f) { sampler(f, 0)["interpolation"] = "WAVES"; }, "WAVES"), QString());
        QCOMPARE(told([&](MovingScene& f) { f.json["animations"][0]["channels"][0]["target"].erase("node"); },
                      "names no node"),
                 QString());
        QCOMPARE(told(
                     [&](MovingScene& f) {
                         f.json["animations"][0]["channels"][1] = f.json["animations"][0]["channels"][0];
                     },
                     "earlier channel"),
                 QString());
        QCOMPARE(told(
                     [&](MovingScene& f) {
                         f.json["nodes"][1].erase("translation");
                         f.json["nodes"][1]["matrix"] = {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1};
                     },
                     "placed by a matrix"),
                 QString());
        QCOMPARE(told(
                     [&](MovingScene& f) {
                         f.json["animations"][0]["channels"][14]["target"]["extensions"]["KHR_animation_pointer"]
                               ["pointer"] = "/materials/0/alphaCutoff";
                     },
                     "is not played"),
                 QString());
        // Joints that the skin does not have: the others hold the vertices, and all stays finite.
        const auto few = with([&](MovingScene& f) {
            f.json["skins"][0]["joints"] = {1, 2};
            f.json["skins"][0].erase("inverseBindMatrices");
        });
        QVERIFY(few.has_value());
        QVERIFY(QString::fromStdString(warnings_of(**few)).contains("joints that the skin does"));
        for (const Vertex& v : vertices_of(scene_at(scene_of_asset(*few, {}), 1), 0))
            QVERIFY(std::isfinite(v.position.x + v.position.y + v.position.z));
        // What cannot be meant is refused, with its place.
        const auto refused = [&](const auto& change, const char* word) {
            const auto asset = with(change);
            return !asset && QString::fromStdString(to_text(asset.error())).contains(word);
        };
        QVERIFY(refused([&](MovingScene& f) { f.json["skins"][0]["joints"][2] = 99; }, "/skins/0/joints/2"));
        QVERIFY(refused([&](MovingScene& f) { f.json["nodes"][6]["children"] = {1}; }, "already has a parent"));
        QVERIFY(refused(
            [&](MovingScene& f) {
                f.json["nodes"][0]["children"] = J::array();
                f.json["nodes"][6]["children"] = {1};
            },
            "ancestor"));
        QVERIFY(refused([&](MovingScene& f) { f.json["animations"][0]["channels"][0]["sampler"] = 999; }, "sampler"));
        QVERIFY(refused([&](MovingScene& f) { f.json["skins"][0]["inverseBindMatrices"] = 0; }, "components"));
    }

    void a_scale_of_zero_hides_and_breaks_nothing() {
        MovingScene file(6);
        file.json["animations"] = nlohmann::json::array();
        nlohmann::json samplers = nlohmann::json::array(
            {{{"input", file.floats({0, 1}, "SCALAR", 1)}, {"output", file.floats({1, 1, 1, 0, 0, 0}, "VEC3", 3)}}});
        file.json["animations"].push_back(
            {{"name", "gone"},
             {"samplers", samplers},
             {"channels",
              nlohmann::json::array({{{"sampler", 0}, {"target", {{"node", file.plateNode}, {"path", "scale"}}}},
                                     {{"sampler", 0}, {"target", {{"node", file.lampNode}, {"path", "scale"}}}},
                                     {{"sampler", 0}, {"target", {{"node", file.rootNode}, {"path", "scale"}}}}})}});
        const auto asset = file.import();
        QVERIFY2(asset.has_value(), asset ? "" : to_text(asset.error()).c_str());
        ClipPlay play{"gone"};
        play.loop = false;
        const Scene scene = scene_at(scene_of_asset(*asset, {play}), 1);
        RayScene rays(scene_of_asset(*asset, {play}));
        rays.place(scene);
        for (std::size_t o = 0; o < scene.objects().size(); ++o) {
            const glm::vec3 size = scene.objects()[o].bounds.size();
            QVERIFY(std::isfinite(size.x + size.y + size.z) && glm::length(size) < 1e-3f);
            const RayHit hit =
                rays.any_surface({scene.objects()[o].bounds.center() + glm::vec3(0, 0, 3), {0, 0, -1}}, 0, false);
            QVERIFY(hit.object < 0 || std::isfinite(hit.distance));
        }
        const Light l = lights_at(scene, 1).front();
        QVERIFY(std::abs(glm::length(l.direction) - 1) < 1e-5f && std::isfinite(l.position.x));
        // And it comes back.
        rays.place(scene_at(scene, 0));
        const Box& b = scene_at(scene, 0).objects()[1].bounds;
        QVERIFY(glm::length(b.size()) > 0.5f);
    }

    void how_clips_play_is_kept_in_the_project() {
        QTemporaryDir dir;
        const auto glb = dir.filePath("scene.gltf").toStdString(), path = dir.filePath("scene.mirolux").toStdString();
        QVERIFY(write_file_atomically(glb, MovingScene(5).text()).has_value());
        auto open = open_project(glb);
        QVERIFY(open.has_value());
        QVERIFY(open->project.clips.empty());
        QVERIFY(!QString::fromStdString(project_text(open->project, *open->asset, path)).contains("\"clips\""));
        ClipPlay play{"drift"};
        play.speed = 0.5;
        play.offset = 1.25;
        play.loop = false;
        play.share = 0.3;
        open->project.clips = {play, {"lost", false}};
        open->project.view.seconds = 1;
        open->project.path = path;
        QVERIFY(save_project(open->project, *open->asset, path).has_value());
        const auto again = open_project(path);
        QVERIFY2(again.has_value(), again ? "" : to_text(again.error()).c_str());
        QVERIFY(again->project.clips == open->project.clips);
        QVERIFY(scene_of(*again).placed &&
                scene_of(*again).placed->pose); // a clip that the file has lost plays nothing
    }
};

MIROLUX_TEST(animation_test)
#include "animation_test.moc"
