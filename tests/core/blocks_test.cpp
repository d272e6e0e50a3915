#include "core/blocks/block_file.h"
#include "core/blocks/cast.h"
#include "core/blocks/cell_tree.h"
#include "core/blocks/grid_walk.h"
#include "core/blocks/lamp_audit.h"
#include "core/blocks/levels.h"
#include "core/blocks/lit_world.h"
#include "core/blocks/mesh.h"
#include "core/blocks/world_edits.h"
#include "core/flat/flat_import.h"
#include "core/io/file.h"
#include "support/block_worlds.h"
#include "support/test_main.h"
#include <QtTest>
#include <map>
#include <set>

using namespace mirolux;
using namespace mirolux::blocks;
using namespace mirolux::test;

/// Volumes of cells, their file, their faces and what rays through them count.
class blocks_test : public QObject {
    Q_OBJECT

    static Contents contents(std::mt19937& r) {
        Contents c;
        c.name = "test islet";
        c.world.palette = block_palette();
        c.world.edge = 0.5f;
        c.world.still = random_world(r, {70, 40, 33}, 0.4);
        c.world.still.fill({0, 0, 0}, {32, 32, 32}, 1); // a whole chunk of one material
        Prop boat{.name = "boat", .cells = random_world(r, {9, 5, 20}, 0.5)};
        boat.place = {20, 30.5f, 12};
        boat.pivot = {4.5f, 0, 10};
        boat.turn = 0.5f;
        boat.rate = 0.1f;
        c.world.props.push_back(boat);
        Light moon{.id = 1, .name = "moon", .type = LightType::directional};
        c.lights.push_back(moon);
        c.cameras.push_back({.name = "south", .eye = {10, 20, 60}, .aim = {10, 5, 10}});
        return c;
    }

    /// The error of bytes that are no file.
    static std::string complaint(const std::vector<std::uint8_t>& bytes, std::size_t limit = std::size_t(1) << 30) {
        const auto read = unpacked(bytes, "a.blocks", limit);
        return read ? std::string() : read.error().where + ": " + read.error().what;
    }

    /// The header of a file, changed by `change`, over the same data.
    template <class Change>
    static std::vector<std::uint8_t> with_header(const std::vector<std::uint8_t>& bytes, const Change& change) {
        const std::size_t n = bytes[8] | bytes[9] << 8 | bytes[10] << 16 | bytes[11] << 24;
        Json j = Json::parse(bytes.begin() + 12, bytes.begin() + 12 + std::ptrdiff_t(n));
        change(j);
        const std::string text = j.dump();
        std::vector<std::uint8_t> out(bytes.begin(), bytes.begin() + 8);
        for (int i = 0; i < 4; ++i)
            out.push_back(std::uint8_t(text.size() >> (8 * i)));
        out.insert(out.end(), text.begin(), text.end());
        out.insert(out.end(), bytes.begin() + 12 + std::ptrdiff_t(n), bytes.end());
        return out;
    }

private slots:
    void a_volume_is_a_value() {
        Volume v(glm::ivec3(40, 10, 33));
        QCOMPARE(v.chunk_count(), std::size_t(4));
        v.set({39, 9, 32}, 7);
        v.set({40, 0, 0}, 7); // outside: nothing
        QCOMPARE(v.at({39, 9, 32}), std::uint8_t(7));
        QCOMPARE(v.at({-1, 0, 0}), std::uint8_t(0));
        QCOMPARE(v.solid(), std::uint64_t(1));
        const Volume before = v;
        v.set({39, 9, 32}, 2);
        v.set({0, 0, 0}, 1);
        QCOMPARE(before.at({39, 9, 32}), std::uint8_t(7));
        QCOMPARE(before.at({0, 0, 0}), std::uint8_t(0));
        QVERIFY(!(before == v));
        Volume all(glm::ivec3(40, 10, 33)), one = all;
        all.put(0, 3);
        one.fill({0, 0, 0}, {32, 10, 32}, 3);
        QVERIFY(all == one); // however they are kept
        QCOMPARE(all.solid(), std::uint64_t(32 * 10 * 32));
        QVERIFY(all.bytes() < one.bytes());
    }

    void a_file_comes_back_as_it_was() {
        std::mt19937 r(1);
        const Contents c = contents(r);
        const std::vector<std::uint8_t> bytes = packed(c);
        const auto back = unpacked(bytes, "a.blocks", std::size_t(1) << 30);
        QVERIFY2(back.has_value(), back ? "" : (back.error().where + back.error().what).c_str());
        QVERIFY(back->world == c.world);
        QVERIFY(back->lights == c.lights && back->cameras == c.cameras && back->name == c.name);
        QVERIFY(packed(*back) == bytes);
        QVERIFY(bytes.size() < 70u * 40 * 33);
        QTemporaryDir folder;
        const std::string path = folder.filePath("a.blocks").toStdString();
        QVERIFY(write_blocks(c, path).has_value());
        const auto scene = import_scene(path);
        QVERIFY(scene.has_value());
        QVERIFY(*(*scene)->blocks == c.world);
        QVERIFY(glm::length((*scene)->bounds.high - glm::vec3(35, 20, 16.5f)) < 1e-4f);
        QCOMPARE((*scene)->digest, (*import_scene(path))->digest);
    }

    void what_is_wrong_with_a_file_is_told_with_its_place() {
        std::mt19937 r(2);
        const std::vector<std::uint8_t> good = packed(contents(r));
        QVERIFY(complaint(good).empty());
        const auto says = [&](const std::vector<std::uint8_t>& bytes, const char* place, const char* words) {
            const std::string text = complaint(bytes);
            if (text.find(place) == std::string::npos || text.find(words) == std::string::npos) {
                qWarning("%s", text.c_str());
                return false;
            }
            return true;
        };
        QVERIFY(says({1, 2, 3}, "at byte 0", "no file of blocks"));
        auto cut = good;
        cut.resize(good.size() - 40);
        QVERIFY(says(cut, "bytes", "beyond the file's end"));
        cut.resize(200);
        QVERIFY(says(cut, "at byte 8", "header"));
        auto damaged = good;
        damaged[good.size() - 300] ^= 0x55;
        QVERIFY(says(damaged, "chunks/", "damaged") || says(damaged, "chunks/", "at byte") ||
                says(damaged, "chunks/", "runs") || says(damaged, "chunks/", "material"));
        QVERIFY(says(with_header(good, [](Json& j) { j["size"][1] = 70; }), "/chunks", "has"));
        QVERIFY(says(with_header(good, [](Json& j) { j["size"][1] = 0; }), "/size/1", "1 or more"));
        QVERIFY(says(with_header(good, [](Json& j) { j["size"][1] = 100000; }), "/size/1", "over the limit"));
        QVERIFY(says(with_header(good, [](Json& j) { j["palette"].erase(2); }), "/chunks", "of material"));
        QVERIFY(says(with_header(good, [](Json& j) { j["chunks"][0] = 77; }), "/chunks/0", "of material 77"));
        QVERIFY(says(with_header(good, [](Json& j) { j["palette"][2]["light"][0] = 64; }), "/palette/2/light/0", "64"));
        QVERIFY(says(with_header(good, [](Json& j) { j["version"] = 2; }), "/version", "newer"));
        QVERIFY(says(with_header(good, [](Json& j) { j["stage"] = "flat"; }), "/stage", "flat"));
        QVERIFY(complaint(good, 100000).find("MiB") != std::string::npos); // more than it may take
    }

    /// A brush's ball, put before a face, taken away and painted; what it changed comes back from a project's words.
    void brushes_change_cells_and_are_kept() {
        World w;
        w.palette = block_palette();
        w.edge = 0.5f;
        w.still = Volume(glm::ivec3(40, 20, 40));
        w.still.fill({0, 0, 0}, {40, 8, 40}, 1);
        const World before = w;
        const auto down = pick_cell(w, {{10.2f, 9, 10.2f}, {0, -1, 0}});
        QVERIFY(down && down->cell == glm::ivec3(20, 7, 20) && down->face == 2 && std::abs(down->metres - 5) < 1e-6);
        const auto far = pick_cell(w, {{-200, 3.9f, 10.2f}, glm::normalize(glm::vec3(1, -0.002f, 0))});
        QVERIFY(far && far->face == 1 && far->cell.x == 0);
        QVERIFY(!pick_cell(w, {{10, 9, 10}, {0, 1, 0}}) && !pick_cell(w, {{-5, 30, 0}, {1, 0, 0}}));
        apply(w, *down, {Brush::Tool::add, 3, 0});
        QCOMPARE(int(w.still.at({20, 8, 20})), 3);
        QCOMPARE(w.still.solid(), before.still.solid() + 1);
        apply(w, *down, {Brush::Tool::paint, 2, 2});
        QCOMPARE(int(w.still.at({20, 7, 20})), 2);
        QCOMPARE(int(w.still.at({22, 7, 20})), 2);
        QCOMPARE(int(w.still.at({20, 8, 20})), 2); // lamps are painted as well
        QCOMPARE(int(w.still.at({20, 9, 20})), 0); // air is not
        apply(w, {{30, 7, 30}, 2, 0}, {Brush::Tool::remove, 0, 1});
        QCOMPARE(int(w.still.at({30, 7, 30})), 0);
        QCOMPARE(int(w.still.at({31, 7, 30})), 0);
        const Json kept = Json::parse(changes(before, w).dump());
        QVERIFY(changed(before, JsonCursor(kept)) == w);
        QVERIFY(changes(w, w).is_null());
        for (const char* bad : {R"({"cells":[[39,0,0,2,1]]})", R"({"cells":[[0,0,0,1,200]]})",
                                R"({"cells":[[0,99,0,1,1]]})", R"({"cells":[[0,0,0,0,1]]})", R"({"cells":[[1]]})"}) {
            const Json j = Json::parse(bad);
            QVERIFY_EXCEPTION_THROWN((void)changed(before, JsonCursor(j)), ReadFailure);
        }
    }

    /// Faces of one cell beside another, one by one.
    void every_face_that_shows_is_in_one_rectangle() {
        std::mt19937 r(4);
        for (const double solid : {0.05, 0.5, 0.95}) {
            const Volume v = random_world(r, {45, 37, 50}, solid);
            const auto palette = block_palette();
            std::map<std::tuple<int, int, int, int>, int> covered; // x, y, z, face: material
            for (std::size_t chunk = 0; chunk < v.chunk_count(); ++chunk) {
                const ChunkMesh mesh = mesh_chunk(v, palette, chunk);
                for (const auto* part : {&mesh.opaque, &mesh.clear})
                    for (const Quad& q : *part) {
                        QCOMPARE(palette[q.material()].stops_light(), part == &mesh.opaque);
                        const glm::ivec2 axes = axes_of(q.face());
                        for (int j = 0; j < q.across(); ++j)
                            for (int i = 0; i < q.along(); ++i) {
                                glm::ivec3 c = q.cell();
                                c[axes.x] += i;
                                c[axes.y] += j;
                                QCOMPARE(v.at(c), q.material());
                                QVERIFY(covered.emplace(std::tuple(c.x, c.y, c.z, q.face()), q.material()).second);
                            }
                    }
            }
            std::size_t faces = 0;
            for (int y = 0; y < v.size().y; ++y)
                for (int z = 0; z < v.size().z; ++z)
                    for (int x = 0; x < v.size().x; ++x)
                        for (int d = 0; d < Neighbours::count; ++d) {
                            const std::uint8_t own = v.at({x, y, z}),
                                               beside = v.at(glm::ivec3(x, y, z) + Neighbours::directions[d]);
                            const bool shows =
                                own != 0 && (beside == 0 || (beside != own && !palette[beside].stops_light()));
                            QCOMPARE(covered.count({x, y, z, d}) == 1, shows);
                            faces += shows;
                        }
            QCOMPARE(covered.size(), faces);
        }
        Volume wall(glm::ivec3(64, 64, 8)); // an even wall is one rectangle a chunk and side
        wall.fill({0, 0, 2}, {64, 64, 4}, 1);
        std::size_t quads = 0;
        for (std::size_t chunk = 0; chunk < wall.chunk_count(); ++chunk)
            quads += mesh_chunk(wall, block_palette(), chunk).opaque.size();
        QCOMPARE(quads, std::size_t(4 * 2 + 8));
    }

    /// Cells that a ray enters, against the box test of every cell.
    static int brute_hits(const Bits& bits, const glm::ivec3& cell, const glm::dvec3& d, const CastOptions& o) {
        return cast_plainly(bits, cell, d, o).toward;
    }

    void hits_are_those_of_every_cell_tried() {
        std::mt19937 r(8);
        std::uniform_real_distribution<double> u(-1, 1);
        int wrongWay = 0, yesOrNo = 0, all = 0;
        for (int i = 0; i < 1000; ++i) {
            const Volume v = random_world(r, {9, 9, 9}, 0.1 + 0.05 * (i % 12));
            const Bits bits(v, block_palette());
            const glm::dvec3 toSun = glm::normalize(glm::dvec3(u(r), u(r), u(r)));
            const CastOptions o{.reach = 3 + i % 8, .clamp = 1 + i % 6};
            for (int n = 0; n < 4; ++n) {
                const glm::ivec3 c(int(r() % 9), int(r() % 9), int(r() % 9));
                const CastHits hits = cast(bits, c, toSun, o);
                QCOMPARE(int(hits.toward), brute_hits(bits, c, toSun, o));
                QCOMPARE(int(hits.away), brute_hits(bits, c, -toSun, o));
                // What is done wrong elsewhere would be seen: rays turned round, hits as yes or no.
                ++all;
                wrongWay += hits.away != brute_hits(bits, c, toSun, o);
                yesOrNo += std::min<int>(hits.toward, 1) != brute_hits(bits, c, toSun, o);
            }
        }
        QVERIFY(wrongWay > all / 4 && yesOrNo > all / 4);
    }

    /// A prop that turns is cast in its own frame: the same as by every cell tried there, and not what the world's
    /// direction would give.
    void a_turned_prop_is_cast_in_its_own_frame() {
        std::mt19937 r(9);
        const Volume v = random_world(r, {12, 10, 16}, 0.35);
        const Bits bits(v, block_palette());
        const glm::dvec3 toSun = glm::normalize(glm::dvec3(0.5, 0.7, -0.31));
        const CastOptions o{.reach = 10, .clamp = 8};
        double apart = 0;
        int cells = 0;
        for (int heading = 0; heading < 24; ++heading) {
            const double turn = heading * glm::pi<double>() / 12 + 0.01;
            const glm::dvec3 own = into_prop(toSun, turn);
            QVERIFY(glm::length(out_of_prop(own, turn) - toSun) < 1e-12);
            for (int y = 0; y < 10; ++y)
                for (int z = 0; z < 16; ++z)
                    for (int x = 0; x < 12; ++x) {
                        if (!bits.at({x, y, z})) continue;
                        const CastHits hits = cast(bits, {x, y, z}, own, o);
                        QCOMPARE(int(hits.toward), brute_hits(bits, {x, y, z}, own, o));
                        apart += std::abs(int(hits.toward) - int(cast(bits, {x, y, z}, toSun, o).toward));
                        ++cells;
                    }
        }
        qInfo("cast in the world's frame instead: %.2f hits apart on average", apart / cells);
        QVERIFY(apart / cells > 0.3);
    }

    /// The first cell along a ray through the tree is that of a walk through all cells.
    void trees_find_what_walks_find() {
        std::mt19937 r(21);
        std::uniform_real_distribution<double> u(-1, 1);
        int hits = 0;
        for (const auto& [size, solid] : {std::pair(glm::ivec3(20, 13, 9), 0.02),
                                          {glm::ivec3(70, 66, 90), 0.01},
                                          {glm::ivec3(40, 40, 40), 0.3},
                                          {glm::ivec3(5, 300, 3), 0.05}}) {
            Volume v = random_world(r, size, solid);
            if (size.z == 90) v.fill({0, 0, 0}, {70, 66, 40}, 0); // large holes
            const CellTree tree = cell_tree(v, block_palette());
            const Bits bits(v, block_palette());
            QVERIFY(tree.cells.size() <= v.solid());
            for (int i = 0; i < 3000; ++i) {
                const glm::dvec3 from = glm::dvec3(size) * (0.5 + 0.7 * glm::dvec3(u(r), u(r), u(r)));
                if (bits.at(glm::ivec3(glm::floor(from)))) continue;
                glm::dvec3 d = glm::normalize(glm::dvec3(u(r), u(r), u(r)));
                if (i % 7 == 0) d = glm::dvec3(Neighbours::directions[r() % 6]); // along an axis
                const double most = i % 5 == 0 ? 15 : 1e9;
                const TreeHit hit = trace(tree, from, d, most);
                glm::ivec3 met(-1);
                double at = 0;
                walk_grid(from, d, std::min(most, 2000.0), [&](const glm::ivec3& c, double distance, int) {
                    if (!bits.at(c)) return true;
                    met = c;
                    at = distance;
                    return false;
                });
                QCOMPARE(hit.material != 0, met.x >= 0);
                if (met.x < 0) continue;
                ++hits;
                QVERIFY(hit.cell == met && std::abs(hit.distance - at) < 1e-6 && hit.material == v.at(met));
                const glm::ivec3 side = met + Neighbours::directions[hit.face];
                QVERIFY(!bits.at(side));
            }
        }
        QVERIFY2(hits > 1000, qPrintable(QString::number(hits)));
    }

    void hits_make_shade_and_highlights() {
        const CastOptions o{.clamp = 4, .shade = 0.8, .power = 2, .hue = 0.5};
        const CastLight open = cast_light({0, 4}, o), half = cast_light({2, 4}, o), shut = cast_light({9, 0}, o),
                        thin = cast_light({0, 1}, o);
        QCOMPARE(open.shadow, 1.0);
        QCOMPARE(open.highlight, 1.0);
        QCOMPARE(open.warm, 0.5);
        QVERIFY(std::abs(half.shadow - 0.6) < 1e-12 && std::abs(half.highlight - 0.25) < 1e-12);
        QVERIFY(std::abs(shut.shadow - 0.2) < 1e-12 && shut.highlight == 0 && shut.warm == -0.5);
        QVERIFY(std::abs(thin.highlight - 1.0 / 16) < 1e-12);
        // Of a field: cells within stone are not cast.
        Volume v(glm::ivec3(40));
        v.fill({5, 5, 5}, {35, 35, 35}, 1);
        const CastField f = cast_all(v, Bits(v, block_palette()), {0, 1, 0}, o);
        QCOMPARE(f.cells(), std::size_t(30 * 30 * 30 - 28 * 28 * 28));
        const auto hits = [&](const glm::ivec3& c) {
            return (*f.chunks[v.chunk_of(c)])[place_in_chunk(c.x, c.y, c.z)];
        };
        QVERIFY((hits({20, 34, 20}) == CastHits{0, 4}) && (hits({20, 5, 20}) == CastHits{4, 0}));
    }

    /// After cells have changed, only what rays from there may meet is cast again: to the same as all anew.
    void cells_that_changed_are_cast_again() {
        std::mt19937 r(19);
        Volume v = random_world(r, {100, 70, 80}, 0.2);
        const glm::dvec3 toSun = glm::normalize(glm::dvec3(0.4, 0.6, -0.5));
        const CastOptions o{.reach = 9, .clamp = 5};
        CastField f = cast_all(v, Bits(v, block_palette()), toSun, o);
        for (int round = 0; round < 12; ++round) {
            const glm::ivec3 at(int(r() % 100), int(r() % 70), int(r() % 80));
            v.set(at, v.at(at) ? 0 : 1);
            const CastField last = f;
            f = cast_again(last, v, Bits(v, block_palette()), toSun, o, at, at + 1);
            const CastField fresh = cast_all(v, Bits(v, block_palette()), toSun, o);
            QCOMPARE(f.cells(), fresh.cells());
            int shared = 0;
            for (std::size_t i = 0; i < f.chunks.size(); ++i) {
                QVERIFY(!f.chunks[i] == !fresh.chunks[i] && (!f.chunks[i] || *f.chunks[i] == *fresh.chunks[i]));
                shared += f.chunks[i] == last.chunks[i];
            }
            QVERIFY(shared > 0);
        }
    }

    /// Of a prop whose headings are cast beforehand the nearest is taken: exact at a heading, near it between two.
    void headings_are_baked_and_the_nearest_taken() {
        QCOMPARE(nearest_heading(0.1, 4), 0.0);
        QVERIFY(std::abs(nearest_heading(-0.1, 4)) < 1e-12 && std::abs(nearest_heading(6.2, 4)) < 1e-12);
        QVERIFY(std::abs(nearest_heading(1.5, 4) - glm::half_pi<double>()) < 1e-12);
        const BlockStage s = block_stage();
        const glm::dvec3 toSun = glm::normalize(glm::dvec3(0.5, 0.7, -0.31));
        const auto apart = [&](const CastWorld& a, const CastWorld& b) {
            double sum = 0;
            std::size_t cells = 0;
            for (std::size_t i = 0; i < a.props[0].chunks.size(); ++i)
                for (std::size_t n = 0; a.props[0].chunks[i] && n < chunk_cells; ++n) {
                    const CastHits x = (*a.props[0].chunks[i])[n], y = (*b.props[0].chunks[i])[n];
                    sum += std::abs(int(x.toward) - int(y.toward));
                }
            for (const std::uint32_t n : a.props[0].seen)
                cells += n;
            return sum / double(cells);
        };
        CastOptions run{.reach = 10, .clamp = 8}, few = run, many = run;
        few.headings = 4;
        many.headings = 32;
        double ofFew = 0, ofMany = 0;
        for (int k = 0; k < 24; ++k) {
            const double turn = 0.03 + k * glm::two_pi<double>() / 24;
            const auto exact = casts(s.scene.blocks, toSun, {turn}, run),
                       coarse = casts(s.scene.blocks, toSun, {turn}, few),
                       fine = casts(s.scene.blocks, toSun, {turn}, many);
            ofFew += apart(*exact, *coarse) / 24;
            ofMany += apart(*exact, *fine) / 24;
            QVERIFY(fine->bakedBytes == 8 * coarse->bakedBytes && coarse->bakedBytes > 0 && exact->bakedBytes == 0);
            QVERIFY(exact->still.cells() > 0 && fine->still.chunks == exact->still.chunks);
        }
        const double turn = 5 * glm::two_pi<double>() / 32;
        QCOMPARE(apart(*casts(s.scene.blocks, toSun, {turn}, run), *casts(s.scene.blocks, toSun, {turn}, many)), 0.0);
        qInfo("hits apart: of 4 headings %.3f, of 32 %.3f", ofFew, ofMany);
        QVERIFY(ofMany < 0.5 * ofFew && ofMany < 0.2);
    }

    /// A whole stage's casting held against every cell in reach, after edits and at many turns, with what it costs.
    void a_stage_is_audited() {
        const BlockStage s = block_stage();
        const CastAudit a = audit_casts(s.scene, s.setup, s.view, 300, 8);
        QVERIFY(a.cells > 3000 && a.asked > 1000 && a.ofProps > 50);
        QCOMPARE(a.wrong, std::uint64_t(0));
        QVERIFY(a.worldFrame > a.headingsApart && a.headingsBytes > 0 && a.editMs > 0 && a.propMs > 0);
    }

    void ways_between_cells_are_straight_or_shut() {
        const auto none = [](const glm::ivec3&) { return false; };
        const auto all = [](const glm::ivec3&) { return true; };
        QVERIFY(sees({0, 0, 0}, {1, 0, 0}, none) && sees({3, 3, 3}, {3, 3, 3}, none));
        QVERIFY(!sees({0, 0, 0}, {1, 1, 0}, none)); // through an edge: both beside it must be open
        QVERIFY(sees({0, 0, 0}, {1, 1, 0}, all) && sees({0, 0, 0}, {-7, 3, 5}, all));
        // Against points along the way, dense enough to fall into every cell but corners.
        std::mt19937 r(6);
        for (int i = 0; i < 2000; ++i) {
            std::set<std::tuple<int, int, int>> shut;
            for (int n = 0; n < 120; ++n)
                shut.insert({int(r() % 9), int(r() % 9), int(r() % 9)});
            const auto open = [&](const glm::ivec3& c) { return shut.count({c.x, c.y, c.z}) == 0; };
            const glm::ivec3 a(int(r() % 9), int(r() % 9), int(r() % 9)), b(int(r() % 9), int(r() % 9), int(r() % 9));
            bool clear = true;
            for (int n = 0; n <= 4001 && clear; ++n) {
                const glm::ivec3 c(glm::floor(glm::mix(glm::dvec3(a) + 0.5, glm::dvec3(b) + 0.5, n / 4001.0)));
                clear = c == a || c == b || open(c);
            }
            const bool seen = sees(a, b, open);
            QVERIFY(seen ? clear : true);
            QCOMPARE(seen, sees(b, a, open));
            const glm::ivec3 d = glm::abs(b - a);
            const bool corners = d.x == d.y || d.y == d.z || d.x == d.z || d.x * d.y * d.z == 0 || d.x % 2 == d.y % 2 ||
                                 d.y % 2 == d.z % 2 || d.x % 2 == d.z % 2;
            if (!corners) QCOMPARE(seen, clear);
        }
    }
};

MIROLUX_TEST(blocks_test)
#include "blocks_test.moc"
