#include "fuzz/targets.h"
#include "core/blocks/block_file.h"
#include "core/blocks/mesh.h"
#include "core/cost/device_profile.h"
#include "core/cost/logbook.h"
#include "core/finish/color_table.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "core/motion/scene_at.h"
#include "core/scene/glb_builder.h"
#include "core/scene/gltf_import.h"
#include "core/scene/project.h"
#include "support/block_worlds.h"
#include "support/scenes.h"
#include <SQLiteCpp/SQLiteCpp.h>
#include <fstream>
#include <meshoptimizer.h>
#include <unistd.h>

#define STB_IMAGE_WRITE_IMPLEMENTATION
#define STB_IMAGE_WRITE_STATIC
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wunused-function"
#pragma GCC diagnostic ignored "-Wmissing-field-initializers"
#include <stb_image_write.h>
#pragma GCC diagnostic pop

namespace mirolux::fuzz {
namespace {

using std::filesystem::path;

void put(const path& file, const Bytes& bytes) {
    std::ofstream(file, std::ios::binary)
        .write(reinterpret_cast<const char*>(bytes.data()), static_cast<std::streamsize>(bytes.size()));
}

Bytes bytes_of(const std::string& text) {
    return {text.begin(), text.end()};
}

void read_scene(const Bytes& bytes, const path& folder) {
    const path file = folder / (bytes.size() > 4 && bytes[0] == 'g' ? "x.glb" : "x.gltf");
    put(file, bytes);
    const auto asset = import_gltf(file, {.memoryLimit = 64 << 20});
    if (!asset) return;
    for (const double seconds : {0.0, 0.4, 9.0}) { // what moves, moves
        const Scene at = scene_at(Scene{*asset, (*asset)->lights, {}, {}}, seconds);
        for (std::size_t o = 0; o < at.objects().size() && o < 64; ++o)
            (void)vertices_of(at, o);
        (void)lights_at(at, seconds);
    }
}

/// A triangle that bones bend and one that shapes bend, placed in three places by one node; clips move them; an unused
/// view is packed.
Bytes moving_seed() {
    gltf::GlbBuilder b;
    const std::vector<float> corners = {0, 0, 0, 1, 0, 0, 0, 1, 0}, shares = {1, 0, 0, 0, 0.5f, 0.5f, 0, 0, 0, 1, 0, 0},
                             times = {0, 0.5f, 1}, turns = {0, 0, 0, 1, 0, 0.6f, 0, 0.8f, 0, 0, 0, 1},
                             places = {0, 0, 0, 2, 0, 0, 4, 0, 0};
    std::vector<float> bind;
    for (int j = 0; j < 2; ++j)
        for (int k = 0; k < 16; ++k)
            bind.push_back(k % 5 == 0 ? 1.0f : 0.0f);
    const std::vector<std::uint8_t> joints = {0, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0};
    const int p = b.floats(corners, "VEC3", 3), j = b.accessor(b.view(joints.data(), joints.size()), 5121, 3, "VEC4"),
              w = b.floats(shares, "VEC4", 4), t = b.floats(times, "SCALAR", 1), q = b.floats(turns, "VEC4", 4),
              m = b.floats(bind, "MAT4", 16), at = b.floats(places, "VEC3", 3), s = b.floats({0, 1, 0.5f}, "SCALAR", 1);
    std::vector<std::uint8_t> packed(meshopt_encodeVertexBufferBound(3, 12));
    packed.resize(meshopt_encodeVertexBuffer(packed.data(), packed.size(), corners.data(), 3, 12));
    const int view = b.view(packed.data(), packed.size());
    b.json["bufferViews"].push_back(
        {{"buffer", 0},
         {"byteLength", 36},
         {"extensions",
          {{"EXT_meshopt_compression",
            {{"buffer", 0},
             {"byteOffset", b.json["bufferViews"][static_cast<std::size_t>(view)]["byteOffset"]},
             {"byteLength", packed.size()},
             {"byteStride", 12},
             {"count", 3},
             {"mode", "ATTRIBUTES"}}}}}});
    const int own = b.accessor(view + 1, 5126, 3, "VEC3");
    b.json["asset"]["version"] = "2.0";
    b.json["scenes"] = Json::array({{{"nodes", {0, 2, 3}}}});
    b.json["nodes"] = Json::parse(R"([{"children":[1]},{"translation":[0,1,0]},{"mesh":0,"skin":0},{"mesh":1}])");
    b.json["nodes"][3]["extensions"]["EXT_mesh_gpu_instancing"]["attributes"]["TRANSLATION"] = at;
    b.json["skins"] = Json::array({{{"joints", {0, 1}}, {"inverseBindMatrices", m}}});
    b.json["meshes"] = Json::array(
        {{{"primitives", Json::array({{{"attributes", {{"POSITION", p}, {"JOINTS_0", j}, {"WEIGHTS_0", w}}}}})}},
         {{"primitives",
           Json::array({{{"attributes", {{"POSITION", own}}}, {"targets", Json::array({{{"POSITION", p}}})}}})}}});
    b.json["animations"] = Json::array(
        {{{"samplers",
           Json::array({{{"input", t}, {"output", q}}, {{"input", t}, {"output", s}, {"interpolation", "STEP"}}})},
          {"channels", Json::array({{{"sampler", 0}, {"target", {{"node", 1}, {"path", "rotation"}}}},
                                    {{"sampler", 1}, {"target", {{"node", 3}, {"path", "weights"}}}}})}}});
    return b.file();
}

std::vector<Bytes> scene_seeds() {
    return {
        moving_seed(),
        bytes_of(R"({"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0,"scale":[1,2,1]},)"
                 R"({"camera":0}],"meshes":[{"primitives":[{"attributes":{"POSITION":0},"indices":1,"material":0}]}],)"
                 R"("materials":[{"alphaMode":"BLEND","pbrMetallicRoughness":{"baseColorFactor":[1,0.5,0.2,1]}}],)"
                 R"("cameras":[{"type":"perspective","perspective":{"yfov":0.7,"znear":0.1}}],)"
                 R"("accessors":[{"bufferView":0,"componentType":5126,"type":"VEC3","count":3},{"bufferView":1,)"
                 R"("componentType":5123,"type":"SCALAR","count":3}],"bufferViews":[{"buffer":0,"byteLength":36},)"
                 R"({"buffer":0,"byteOffset":36,"byteLength":6}],"buffers":[{"byteLength":42,)"
                 R"("uri":"data:application/octet-stream;base64,)"
                 R"(AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAAAAABAAIA"}]})")};
}

void read_project(const Bytes& bytes, const path& folder) {
    const path file = folder / "x.mirolux";
    put(file, bytes);
    static const Bytes scene = scene_seeds().back();
    put(folder / "seed.gltf", scene);
    (void)open_project(file, {.decodeImages = false});
}

/// A project of a few lights, and of things built, beside a scene of one quad.
std::vector<Bytes> project_seeds() {
    const path folder = std::filesystem::temp_directory_path() / ("mirolux-seed-" + std::to_string(getpid()));
    std::filesystem::create_directories(folder);
    Project p;
    p.name = "Seed";
    p.lights = test::random_scene(1, 6).lights;
    p.targets = {plain_target("Desk", 64, 36, 16.67)};
    p.scenePath = (folder / "seed.gltf").string();
    const auto scene = scene_seeds().back();
    std::vector<Bytes> seeds;
    for (const ShapeKind kind : {ShapeKind::box, ShapeKind::torus}) {
        Make make;
        make.shape = usual_shape(kind);
        add_things(p.built, {{std::string("made ") + word(kind), word(kind), std::make_shared<const Make>(make)}});
    }
    if (write_file_atomically(p.scenePath, scene.data(), scene.size()))
        if (const auto asset = import_gltf(p.scenePath))
            if (save_project(p, **asset, folder / "seed.mirolux"))
                if (auto bytes = read_file(folder / "seed.mirolux")) seeds.push_back(std::move(*bytes));
    std::filesystem::remove_all(folder);
    return seeds;
}

void read_image(const Bytes& bytes, const path&) {
    const auto size = encoded_image_size(bytes);
    if (size && std::size_t(size->first) * static_cast<std::size_t>(size->second) < (1u << 22))
        (void)decode_image(bytes);
}

std::vector<Bytes> image_seeds() {
    ByteImage flat{8, 8, std::vector<std::uint8_t>(256, 77)}, noisy{31, 17, std::vector<std::uint8_t>(31 * 17 * 4)};
    std::mt19937 random(3);
    for (std::uint8_t& v : noisy.rgba)
        v = static_cast<std::uint8_t>(random());
    Bytes jpeg;
    stbi_write_jpg_to_func(
        [](void* to, void* data, int size) {
            const auto* bytes = static_cast<const std::uint8_t*>(data);
            static_cast<Bytes*>(to)->insert(static_cast<Bytes*>(to)->end(), bytes, bytes + size);
        },
        &jpeg, noisy.width, noisy.height, 4, noisy.rgba.data(), 80);
    return {encode_png(flat), encode_png(noisy), jpeg};
}

void read_profile(const Bytes& bytes, const path& folder) {
    const path file = folder / "x.json";
    put(file, bytes);
    (void)find_profile(file.string());
}

std::vector<Bytes> profile_seeds() {
    return {bytes_of(to_json(shipped_profiles().front()).dump())};
}

// The first byte chooses the column that the rest is written into.
constexpr const char* logbookTexts[] = {"detail SET setup",       "detail SET lights", "detail SET view",
                                        "detail SET measurement", "entry SET changes", "record SET document",
                                        "run SET setup",          "round SET passes"};

Measurement quick_measurement() {
    Measurement m;
    m.rounds = 3;
    m.frame = {2, 1.9, 2.1};
    m.clock = "fenced";
    m.width = m.height = 8;
    return m;
}

void read_logbook(const Bytes& bytes, const path& folder) {
    if (bytes.empty()) return;
    const path file = folder / "x.logbook", good = folder / "good.logbook";
    if (!std::filesystem::exists(good)) {
        auto book = Logbook::open(good);
        State state;
        state.lights = test::random_scene(1, 3).lights;
        const mirolux::Target target = plain_target("Desk", 8, 8, 16);
        if (!book || !book->add(state, quick_measurement(), {}, target, "digest")) std::abort();
        if (!book->keep_record("walk", "device", "digest", {}, Json::object())) std::abort();
        const auto run = book->begin_run({state, {}, target, "digest"});
        if (!run || !book->keep_round(*run, {})) std::abort();
    }
    for (const char* end : {"", "-wal", "-shm"}) {
        std::filesystem::remove(file.string() + end);
        if (std::filesystem::exists(good.string() + end))
            std::filesystem::copy_file(good.string() + end, file.string() + end);
    }
    {
        SQLite::Database db(file.string(), SQLite::OPEN_READWRITE);
        db.exec("UPDATE run SET process = 1073741824"); // nobody's: opening takes its rounds up
        SQLite::Statement q(db, std::string("UPDATE ") + logbookTexts[bytes[0] % std::size(logbookTexts)] + " = ?");
        q.bind(1, std::string(bytes.begin() + 1, bytes.end()));
        q.exec();
    }
    auto book = Logbook::open(file);
    if (!book) return;
    (void)book->points();
    (void)book->records("");
    if (const auto entries = book->entries())
        for (const Entry& e : *entries) {
            (void)book->state(e.id);
            (void)book->measurement_json(e.id);
        }
    if (!book->add({}, quick_measurement(), {}, plain_target("Desk", 8, 8, 16), "digest"))
        std::abort(); // what stands in the book never keeps a new entry out
}

std::vector<Bytes> logbook_seeds() {
    const auto lights = test::random_scene(1, 3).lights;
    Json list = Json::array();
    for (const Light& l : lights)
        list.push_back(to_json(l));
    const std::string texts[] = {to_json_whole(Setup()).dump(), list.dump(),
                                 to_json(View{}).dump(),        R"({"frame":{"median":2},"passes":[]})",
                                 R"(["First entry"])",          R"({"points":[]})",
                                 to_json_whole(Setup()).dump(), R"([{"name":"opaque","ms":1}])"};
    std::vector<Bytes> seeds;
    for (std::size_t i = 0; i < std::size(texts); ++i) {
        Bytes seed = {static_cast<std::uint8_t>(i)};
        seed.insert(seed.end(), texts[i].begin(), texts[i].end());
        seeds.push_back(std::move(seed));
    }
    return seeds;
}

/// A message between program and worker, of any kind.
void read_message(const Bytes& bytes, const path&) {
    const auto read = [&](auto&& reader) {
        try {
            reader();
        } catch (const ReadFailure&) {
        }
    };
    Json j;
    read([&] { j = message_from_bytes(bytes.data(), bytes.size()); });
    if (!j.is_object()) return;
    const JsonCursor root(j);
    read([&] { (void)record_from_json(root["record"]); });
    read([&] { (void)options_from_json(root["options"]); });
    read([&] { (void)view_from_json(root["view"]); });
    read([&] { (void)setup_from_json(root["setup"]); });
    read([&] {
        std::vector<Light> lights;
        apply_light_patch(lights, root["lights"]);
    });
}

void read_table(const Bytes& bytes, const path&) {
    if (const auto table = parse_color_table(std::string(bytes.begin(), bytes.end()), "x.cube"))
        if (const glm::dvec3 c = table->at({0.3, 2, -1}); table->size < 2 || c.x > 1e40) std::abort();
}

std::vector<Bytes> table_seeds() {
    std::string text = "TITLE \"x\"\nLUT_3D_SIZE 2\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 1 1 1\n";
    for (int i = 0; i < 8; ++i)
        text += "0.25 0.5 1\n";
    return {bytes_of(text)};
}

std::vector<Bytes> message_seeds() {
    FrameRecord record;
    record.passes.push_back({"opaque", "opaque", {1.5, 2.5}, Work::drawing(3, 4), true});
    RenderOptions options;
    options.probe = glm::ivec2(3, 4);
    const Json message = {{"record", to_json(record)},
                          {"options", to_json(options)},
                          {"view", to_json(View{})},
                          {"setup", to_json_whole(Setup())},
                          {"lights", light_patch({}, test::random_scene(1, 6).lights)}};
    // The last one names a list of more elements than any memory holds.
    return {Json::to_cbor(message), {0xa1, 0x61, 0x61, 0xbb, 0xd0, 0xb7, 0, 0, 0, 0, 0, 0}};
}

void read_cells(const Bytes& bytes, const path&) {
    const auto read = blocks::unpacked(bytes, "x.blocks", 8 << 20);
    if (!read) return;
    for (std::size_t chunk = 0; chunk < read->world.still.chunk_count(); ++chunk) // what is read can be used
        (void)blocks::mesh_chunk(read->world.still, read->world.palette, chunk);
}

std::vector<Bytes> cell_seeds() {
    std::mt19937 r(1);
    blocks::Contents c;
    c.world.palette = test::block_palette();
    c.world.still = test::random_world(r, {40, 20, 33}, 0.5);
    c.world.props.push_back({.name = "boat", .cells = test::random_world(r, {5, 4, 9}, 0.3)});
    c.cameras.push_back({});
    return {blocks::packed(c)};
}

} // namespace

const std::vector<Target>& targets() {
    static const std::vector<Target> all = {
        {"scene", read_scene, scene_seeds, 1500},        {"project", read_project, project_seeds, 400},
        {"image", read_image, image_seeds, 4000},        {"profile", read_profile, profile_seeds, 1500},
        {"logbook", read_logbook, logbook_seeds, 200},   {"message", read_message, message_seeds, 4000},
        {"colour table", read_table, table_seeds, 4000}, {"cells", read_cells, cell_seeds, 3000, 100000}};
    return all;
}

} // namespace mirolux::fuzz
