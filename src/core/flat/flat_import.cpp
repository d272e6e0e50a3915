#include "core/flat/flat_import.h"
#include "core/base/text.h"
#include "core/blocks/block_file.h"
#include "core/flat/flat_view.h"
#include "core/flat/trace_outline.h"
#include "core/flat/world_json.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/io/from_word.h"
#include "core/io/wire.h"
#include <glm/gtc/constants.hpp>
#include <set>

namespace mirolux {

namespace fs = std::filesystem;

namespace {

constexpr flat::Seen seenWays[] = {flat::Seen::side, flat::Seen::above};

class FlatImporter {
public:
    FlatImporter(fs::path path, const ImportOptions& options)
        : path_(std::move(path)), options_(options),
          limit_(options.memoryLimit ? options.memoryLimit : machine_memory() / 8) {}

    SceneAsset run(const std::vector<std::uint8_t>& bytes) {
        Digest own;
        own.add(bytes.data(), bytes.size());
        digest_ = own;
        const Json json = Json::parse(bytes.begin(), bytes.end());
        const JsonCursor root(json);
        if (root["stage"].text() != "flat")
            root["stage"].complain("is \"" + root["stage"].text() + "\"; this reader knows \"flat\"");
        if (root["version"].whole(1000) > 1) root["version"].complain("is newer than this program", "Update Mirolux.");
        asset_.path = path_.string();
        world_.seen = root.has("seen") ? from_word(root["seen"], seenWays) : flat::Seen::side;
        read_sheets(root.list("sheets"));
        read_layers(root.list("layers"));
        read_sprites(root.list("sprites"));
        read_tiles(root.list("tiles"));
        read_walls(root.list("walls"));
        read_times(root.list("times"));
        read_bounds(root);
        read_lights(root.list("lights"), root.list("motions"));
        read_cameras(root.list("cameras"));
        Material plain;
        asset_.materials = {plain}; // as of every asset: the default one is the last
        asset_.bounds = {glm::vec3(world_.low, 0), glm::vec3(world_.high, 1)};
        asset_.digest = digest_.value;
        asset_.fileDigest = own.value;
        asset_.warnings = std::move(warnings_);
        asset_.flat = std::make_shared<const flat::World>(std::move(world_));
        return std::move(asset_);
    }

private:
    void warn(const JsonCursor& at, const std::string& text) {
        warnings_.push_back(path_.string() + "#" + at.pointer() + ": " + text);
    }

    /// Reads a picture beside the scene file; its pixels only where they are asked for.
    int read_image(const JsonCursor& file, bool decode) {
        const fs::path beside = file.text();
        if (beside.is_absolute() || beside.string().find("..") != std::string::npos)
            file.complain("must name a file beside the scene file or below it");
        const fs::path whole = path_.parent_path() / beside;
        auto bytes = read_file(whole);
        if (!bytes)
            file.complain("the sheet " + whole.string() + " cannot be read: " + bytes.error().what,
                          "Put it beside the scene file, or take the sheet out.");
        digest_.add(bytes->data(), bytes->size());
        const auto size = encoded_image_size(*bytes);
        if (!size) file.complain(whole.string() + " is not a PNG or JPEG that can be read: " + size.error().what);
        if (size->first > 16384 || size->second > 16384)
            file.complain("the sheet " + whole.string() + " is " + std::to_string(size->first) + "x" +
                              std::to_string(size->second) + " pixels; 16384 on a side are the most",
                          "Cut it into several sheets.");
        spent_ += bytes->size() + std::size_t(8) * size->first * size->second;
        if (spent_ > limit_)
            file.complain("its sheets take more than " + std::to_string(limit_ >> 20) + " MiB", "Use smaller sheets.");
        TextureImage image{beside.string(), size->first, size->second, {}};
        if (decode || options_.decodeImages) {
            auto decoded = decode_image(*bytes);
            if (!decoded) file.complain(whole.string() + " cannot be decoded: " + decoded.error().what);
            image.rgba = std::move(decoded->rgba);
        }
        asset_.images.push_back(std::move(image));
        return static_cast<int>(asset_.images.size()) - 1;
    }

    void read_sheets(const JsonCursor& list) {
        if (list.size() > 256) list.complain("has more than 256 sheets");
        for (std::size_t i = 0; i < list.size(); ++i) {
            const JsonCursor j = list.at(i);
            flat::Sheet s;
            s.name = j["name"].text();
            if (!sheetNames_.insert(s.name).second) j["name"].complain("is the name of another sheet, too");
            s.file = j["file"].text();
            s.image = read_image(j["file"], true);
            const TextureImage& image = asset_.images.back();
            const int width = image.width, height = image.height;
            s.cellWidth = width;
            s.cellHeight = height;
            if (j.has("cell")) {
                const JsonCursor cell = j["cell"];
                if (cell.size() != 2) cell.complain("must be an array of width and height");
                s.cellWidth = static_cast<int>(cell.at(0).whole(16384));
                s.cellHeight = static_cast<int>(cell.at(1).whole(16384));
                if (s.cellWidth < 1 || s.cellHeight < 1 || s.cellWidth > width || s.cellHeight > height)
                    cell.complain("must lie between 1x1 and the sheet's " + std::to_string(width) + "x" +
                                  std::to_string(height));
            }
            s.columns = width / s.cellWidth;
            s.rows = height / s.cellHeight;
            const auto more = [&](const char* key, std::string& file, int& to) {
                if (!j.has(key)) return;
                file = j[key].text();
                to = read_image(j[key], false);
                if (asset_.images.back().width != width || asset_.images.back().height != height)
                    j[key].complain("is " + std::to_string(asset_.images.back().width) + "x" +
                                    std::to_string(asset_.images.back().height) + ", not as large as its sheet");
            };
            more("normals", s.normalFile, s.normals);
            more("emission", s.emissionFile, s.emission);
            s.normalScale = static_cast<float>(j.number("normalScale", 1.0, 0.0, 10.0));
            world_.sheets.push_back(std::move(s));
        }
    }

    void read_layers(const JsonCursor& list) {
        if (list.size() > 32) list.complain("has more than 32 layers");
        for (std::size_t i = 0; i < list.size(); ++i) {
            const JsonCursor j = list.at(i);
            flat::Layer l;
            l.name = j["name"].text();
            if (world_.layer(l.name) >= 0) j["name"].complain("is the name of another layer, too");
            l.parallax = static_cast<float>(j.number("parallax", 1.0, -10.0, 10.0));
            l.lit = j.flag("lit", true);
            l.tint = j.vector<4>("tint", l.tint);
            world_.layers.push_back(std::move(l));
        }
    }

    void read_sprites(const JsonCursor& list) {
        std::set<int> ids;
        for (std::size_t i = 0; i < list.size(); ++i) {
            world_.sprites.push_back(flat::sprite_from_json(list.at(i), world_));
            if (!ids.insert(world_.sprites.back().id).second)
                list.at(i)["id"].complain("is the id of another sprite, too");
        }
    }

    void read_tiles(const JsonCursor& list) {
        for (std::size_t i = 0; i < list.size(); ++i) {
            const JsonCursor j = list.at(i);
            flat::Tiles t;
            t.name = j.text("name", "tiles " + std::to_string(i + 1));
            t.layer = world_.layer(j["layer"].text());
            if (t.layer < 0) j["layer"].complain("there is no layer named \"" + j["layer"].text() + "\"");
            for (std::size_t k = 0; k < world_.sheets.size(); ++k)
                if (world_.sheets[k].name == j["sheet"].text()) t.sheet = static_cast<int>(k);
            const flat::Sheet& sheet = world_.sheets.empty() ? flat::Sheet() : world_.sheets[size_t(t.sheet)];
            if (sheet.name != j["sheet"].text())
                j["sheet"].complain("there is no sheet named \"" + j["sheet"].text() + "\"");
            t.place = j["place"].vector<2>();
            t.columns = static_cast<int>(j["columns"].whole(4096));
            const JsonCursor cells = j["cells"];
            if (t.columns < 1 || cells.size() == 0 || cells.size() % static_cast<std::size_t>(t.columns) != 0)
                cells.complain("must hold whole rows of " + std::to_string(t.columns) + " cells");
            t.rows = static_cast<int>(cells.size()) / t.columns;
            for (std::size_t k = 0; k < cells.size(); ++k) {
                const double cell = cells.at(k).number();
                if (cell != std::floor(cell) || cell < -1 || cell >= double(sheet.columns) * sheet.rows)
                    cells.at(k).complain("must be -1 or the number of a cell, under " +
                                         std::to_string(sheet.columns * sheet.rows));
                t.cells.push_back(static_cast<int>(cell));
            }
            world_.tiles.push_back(std::move(t));
        }
    }

    void read_walls(const JsonCursor& list) {
        std::set<int> ids;
        std::size_t points = 0;
        const auto take = [&](flat::Wall wall, const JsonCursor& j) {
            if (!ids.insert(wall.id).second) j.complain("its id " + std::to_string(wall.id) + " is another's, too");
            points += wall.outline.points.size();
            if (points > flat::most_points)
                j.complain("outlines have more than " + std::to_string(flat::most_points) + " points together",
                           "Simplify them, or trace them with a larger tolerance.");
            world_.walls.push_back(std::move(wall));
        };
        for (std::size_t i = 0; i < list.size(); ++i) {
            const JsonCursor j = list.at(i);
            if (!j.has("trace")) {
                take(flat::wall_from_json(j, world_), j);
                continue;
            }
            const JsonCursor t = j["trace"];
            const auto id = static_cast<int>(j["id"].whole(0x7FFF0000));
            const auto spriteId = static_cast<int>(j["sprite"].whole(0x7FFFFFFF));
            const flat::Sprite* sprite = world_.sprite(spriteId);
            if (!sprite) j["sprite"].complain("there is no sprite " + std::to_string(spriteId));
            const auto threshold = 255.0 * t.number("alpha", 0.5, 0.0, 1.0);
            const auto outlines = traced(*sprite, threshold, t.number("tolerance", 1.0, 0.0, 1000.0),
                                         static_cast<int>(t.whole("inset", 0, 64)));
            if (outlines.empty()) warn(t, "finds nothing solid: " + sprite->name + " casts no shadow");
            for (std::size_t k = 0; k < outlines.size(); ++k) {
                flat::Wall wall;
                wall.id = id + static_cast<int>(k);
                wall.name = j.text("name", sprite->name) + (k ? " " + std::to_string(k + 1) : "");
                wall.sprite = spriteId;
                wall.outline = outlines[k];
                wall.casts = j.flag("casts", true);
                flat::take_matter(wall, j);
                take(std::move(wall), j);
            }
        }
    }

    /// Outlines of a sprite's first cell, about its middle; `inset`: pixels that light enters before it is stopped.
    std::vector<flat::Occluder> traced(const flat::Sprite& s, double threshold, double tolerance, int inset) const {
        const flat::Sheet& sheet = world_.sheets[static_cast<std::size_t>(s.sheet)];
        const TextureImage& image = asset_.images[static_cast<std::size_t>(sheet.image)];
        const int left = s.cell % sheet.columns * sheet.cellWidth, top = s.cell / sheet.columns * sheet.cellHeight;
        const auto solid = [&](int x, int y) {
            const std::size_t row = static_cast<std::size_t>(top + sheet.cellHeight - 1 - y);
            return image.rgba[4 * (row * static_cast<std::size_t>(image.width) + static_cast<std::size_t>(left + x)) +
                              3] > threshold;
        };
        const auto deep = [&](int x, int y) {
            for (int dy = -inset; dy <= inset; ++dy)
                for (int dx = -inset; dx <= inset; ++dx)
                    if (dx * dx + dy * dy <= inset * inset && (x + dx < 0 || y + dy < 0 || x + dx >= sheet.cellWidth ||
                                                               y + dy >= sheet.cellHeight || !solid(x + dx, y + dy)))
                        return false;
            return true;
        };
        auto out = flat::trace_outline(sheet.cellWidth, sheet.cellHeight, deep, tolerance);
        for (flat::Occluder& o : out)
            for (glm::dvec2& p : o.points)
                p -= 0.5 * glm::dvec2(sheet.cellWidth, sheet.cellHeight);
        return out;
    }

    void read_times(const JsonCursor& list) {
        for (std::size_t i = 0; i < list.size(); ++i) {
            const JsonCursor j = list.at(i);
            flat::TimeKey k;
            k.hour = j.number("hour", -1, 0.0, 24.0);
            if (!j.has("hour")) j.complain("lacks \"hour\"");
            if (!world_.times.empty() && k.hour <= world_.times.back().hour)
                j["hour"].complain("does not come after the key before");
            k.tint = j.vector<3>("tint", k.tint);
            for (int c = 0; c < 3; ++c)
                if (!(k.tint[c] >= 0.0f && k.tint[c] <= 8.0f)) j["tint"].complain("must lie between 0 and 8");
            k.saturation = static_cast<float>(j.number("saturation", 1.0, 0.0, 4.0));
            k.contrast = static_cast<float>(j.number("contrast", 1.0, 0.0, 4.0));
            k.brightness = static_cast<float>(j.number("brightness", 1.0, 0.0, 8.0));
            k.skyKeeps = static_cast<float>(j.number("skyKeeps", 1.0, 0.0, 16.0));
            k.sky = j.vector<3>("sky", k.sky);
            for (int c = 0; c < 3; ++c)
                if (!(k.sky[c] >= 0.0f && k.sky[c] <= 8.0f)) j["sky"].complain("must lie between 0 and 8");
            world_.times.push_back(k);
        }
    }

    void read_bounds(const JsonCursor& root) {
        if (root.has("bounds")) {
            world_.low = root["bounds"]["low"].vector<2>();
            world_.high = root["bounds"]["high"].vector<2>();
        } else
            for (const flat::Tiles& t : world_.tiles) {
                const flat::Sheet& s = world_.sheets[static_cast<std::size_t>(t.sheet)];
                world_.low = glm::min(world_.low, t.place);
                world_.high =
                    glm::max(world_.high, t.place + glm::vec2(t.columns * s.cellWidth, t.rows * s.cellHeight));
            }
        for (int k = 0; k < 2; ++k)
            if (!(world_.high[k] > world_.low[k])) world_.high[k] = world_.low[k] + 100.0f;
    }

    void read_lights(const JsonCursor& list, const JsonCursor& motions) {
        std::set<int> ids;
        for (std::size_t i = 0; i < list.size(); ++i) {
            const JsonCursor j = list.at(i);
            Light l = light_from_json(j);
            if (!ids.insert(l.id).second) j["id"].complain("is the id of another light, too");
            for (const std::string& layer : l.flat.layers)
                if (world_.layer(layer) < 0) j["flat"]["layers"].complain("there is no layer named \"" + layer + "\"");
            if (l.flat.shape == FlatShape::picture && !sheetNames_.contains(l.flat.picture))
                j["flat"].complain("there is no sheet named \"" + l.flat.picture + "\" to take its profile from");
            if (l.type != LightType::directional && l.range <= 0.0f && l.flat.shape != FlatShape::picture)
                warn(j, "the light \"" + l.name + "\" has no range: it lights nothing");
            asset_.lights.push_back(std::move(l));
        }
        for (std::size_t i = 0; i < motions.size(); ++i) {
            asset_.motions.push_back(motion_from_json(motions.at(i)));
            if (!ids.contains(asset_.motions.back().light))
                motions.at(i)["light"].complain("there is no light " + std::to_string(asset_.motions.back().light));
        }
    }

    void read_cameras(const JsonCursor& list) {
        for (std::size_t i = 0; i < list.size(); ++i) {
            const JsonCursor j = list.at(i);
            asset_.cameras.push_back(
                flat::camera_at(j["center"].vector<2>(), static_cast<float>(j["span"].number()), j["name"].text()));
            if (!(asset_.cameras.back().span > 0)) j["span"].complain("must be over 0");
        }
        if (asset_.cameras.empty()) {
            const glm::vec2 size = world_.high - world_.low;
            asset_.cameras.push_back(flat::camera_at(0.5f * (world_.low + world_.high),
                                                     std::max(size.y, size.x * 9.0f / 16.0f), "whole stage"));
        }
    }

    fs::path path_;
    ImportOptions options_;
    std::size_t limit_, spent_ = 0;
    SceneAsset asset_;
    flat::World world_;
    std::set<std::string> sheetNames_;
    std::vector<std::string> warnings_;
    Digest digest_;
};

} // namespace

Result<std::shared_ptr<const SceneAsset>> import_flat(const fs::path& path, const ImportOptions& options) {
    auto bytes = read_file(path);
    if (!bytes) return tl::unexpected(bytes.error());
    try {
        return std::make_shared<const SceneAsset>(FlatImporter(path, options).run(*bytes));
    } catch (const ReadFailure& f) {
        return fail(f.what, path.string() + "#" + f.pointer, f.remedy);
    } catch (const Json::exception& e) {
        return fail(std::string("is not JSON: ") + e.what(), path.string());
    }
}

Result<std::shared_ptr<const SceneAsset>> import_scene(const fs::path& path, const ImportOptions& options) {
    if (path.extension() == ".blocks") return import_blocks(path, options);
    return path.extension() == ".json" ? import_flat(path, options) : import_gltf(path, options);
}

Result<std::shared_ptr<const SceneAsset>> with_pictures(const std::shared_ptr<const SceneAsset>& asset,
                                                        std::shared_ptr<const SceneAsset>& kept) {
    if (asset->textures.empty() && !asset->flat) return asset;
    if (!kept || kept->fileDigest != asset->fileDigest || kept->path != asset->path || kept->choice != asset->choice) {
        auto read = import_scene(asset->path, {.choice = asset->choice});
        if (!read) return tl::unexpected(read.error());
        if ((*read)->fileDigest != asset->fileDigest)
            return fail("the scene file has changed since it was opened", asset->path, "Reload the scene.");
        kept = std::move(*read);
    }
    return built_on(kept, asset->built);
}

} // namespace mirolux
