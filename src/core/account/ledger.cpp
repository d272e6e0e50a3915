#include "core/account/ledger.h"
#include "core/cost/statistics.h"
#include "core/light/luminance.h"
#include <numeric>

namespace mirolux {

static void enter_cheap_lights(const Scene& scene, const FrameRecord& record, double total, Ledger& ledger) {
    for (const CheapLight& l : scene.cheapLights) {
        CheapRow row;
        row.light = l.id;
        row.name = l.name;
        row.shape = l.shape;
        row.enabled = l.enabled;
        const auto share = std::find_if(record.cheap.begin(), record.cheap.end(),
                                        [&](const CheapShare& s) { return s.light == l.id; });
        if (share != record.cheap.end()) {
            row.inView = true;
            row.fragments = share->fragments;
            row.ms = share->ms;
            row.contributionShare = total > 0 ? share->luminance / total : 0;
        }
        for (const LedgerRow& other : ledger.rows)
            if (std::find(l.standsFor.begin(), l.standsFor.end(), other.light) != l.standsFor.end()) {
                row.standsFor.push_back(other.name);
                row.standsForMs += other.ms + other.shadowMs;
                row.standsForShare += other.contributionShare;
            }
        ledger.cheap.push_back(std::move(row));
    }
}

std::vector<std::string> ledger_layers(const Setup& setup) {
    std::vector<std::string> out = {"final"};
    if (setup.stage == Stage::flat) return out;
    for (const char* name : {"ambient", "probes", "reflection"})
        if (const LayerInfo* layer = find_layer(name); layer && shows(*layer, setup, false)) out.push_back(name);
    return out;
}

/// A layer's luminance, summed; none: the record does not have it.
static std::optional<double> summed(const FrameRecord& record, const char* layer) {
    const auto it = record.floats.find(layer);
    if (it == record.floats.end()) return std::nullopt;
    double sum = 0;
    for (std::size_t i = 0; i + 3 < it->second.data.size(); i += 4)
        sum += luminance({it->second.data[i], it->second.data[i + 1], it->second.data[i + 2]});
    return sum;
}

static void enter_ambient(const FrameRecord& record, double total, Ledger& ledger) {
    const auto all = summed(record, "ambient"), probes = summed(record, "probes"),
               screen = summed(record, "reflection");
    if (!all || !(*all > 0) || !(total > 0)) return;
    std::vector<AmbientRow> rows = {{"ambient", *all / total, 0}};
    if (probes || screen) rows.push_back({"surroundings", (*all - probes.value_or(0) - screen.value_or(0)) / total, 0});
    if (probes) rows.push_back({"probes", *probes / total, 0});
    if (screen) rows.push_back({"screen", *screen / total, 0});
    for (const PassRecord& p : record.passes) {
        if (p.family != "ambient" || p.ms.empty()) continue;
        const double ms = median(p.ms);
        rows[0].ms += ms;
        const char* source = p.name == "surroundings" || p.name == "lobes"                              ? "surroundings"
                             : p.name == "probes"                                                       ? "probes"
                             : p.name == "depth pyramid" || p.name.find("reflect") != std::string::npos ? "screen"
                                                                                                        : "";
        for (AmbientRow& row : rows)
            if (row.source == source) row.ms += ms;
    }
    ledger.ambient = std::move(rows);
}

Ledger make_ledger(const Scene& scene, const FrameRecord& record) {
    Ledger ledger;
    const double total = summed(record, "final").value_or(0);
    std::map<int, const LightShare*> shares;
    for (const LightShare& s : record.ledger) {
        shares[s.light] = &s;
        ledger.evaluations += s.evaluations;
        ledger.airCells += s.airCells;
    }
    static const char* shading[] = {"opaque", "lights", "shading", "volumes", "transparent"};
    for (const PassRecord& p : record.passes)
        if (std::find(std::begin(shading), std::end(shading), p.name) != std::end(shading) && !p.ms.empty())
            ledger.shadingMs += median(p.ms);
        else if (p.name == "light in the air" && !p.ms.empty())
            ledger.airMs = median(p.ms);
    for (const Light& l : scene.lights) {
        LedgerRow row;
        row.light = l.id;
        row.name = l.name;
        row.type = l.type;
        row.enabled = l.enabled;
        if (const auto it = shares.find(l.id); it != shares.end()) {
            row.inView = true;
            row.evaluations = it->second->evaluations;
            row.costShare = ledger.evaluations ? double(row.evaluations) / double(ledger.evaluations) : 0;
            row.airCells = it->second->airCells;
            row.airCostShare = ledger.airCells ? double(row.airCells) / double(ledger.airCells) : 0;
            row.airMs = row.airCostShare * ledger.airMs;
            row.airContribution = total > 0 ? it->second->airLuminance / total : 0;
            row.ms = row.costShare * ledger.shadingMs + row.airMs;
            row.shadowTaps = it->second->shadowTaps;
            row.shadowMs = it->second->shadowMs;
            row.contributionShare = (total > 0 ? it->second->luminance / total : 0) + row.airContribution;
            row.ratio = row.costShare > 0 ? row.contributionShare / row.costShare : 0;
            ledger.lightShare += row.contributionShare;
        }
        ledger.rows.push_back(std::move(row));
    }
    enter_cheap_lights(scene, record, total, ledger);
    enter_ambient(record, total, ledger);
    ledger.objects = object_rows(scene);
    for (const ObjectShare& s : record.objects) {
        ObjectRow& row = ledger.objects[static_cast<std::size_t>(s.object)];
        row.inView = true;
        row.fragments = s.fragments;
        row.evaluations = s.evaluations;
        row.costShare = ledger.evaluations ? double(s.evaluations) / double(ledger.evaluations) : 0;
    }
    return ledger;
}

std::vector<ObjectRow> object_rows(const Scene& scene) {
    const SceneAsset& asset = *scene.asset;
    const std::vector<Moves> moves = movers(scene);
    std::vector<ObjectRow> rows;
    for (std::size_t o = 0; o < scene.objects().size(); ++o) {
        const Object& object = scene.objects()[o];
        const Primitive& p = asset.primitives[static_cast<std::size_t>(object.primitive)];
        ObjectRow row;
        row.object = static_cast<int>(o);
        const ObjectName name = object_name(scene, row.object);
        row.id = name.id;
        row.name = name.name;
        row.material = asset.material_of(object).name;
        row.triangles = p.indices.size() / 3;
        row.hidden = object.hidden;
        row.moves = moves[o];
        rows.push_back(std::move(row));
    }
    return rows;
}

std::vector<std::size_t> ordered(const std::vector<ObjectRow>& rows, ObjectOrder order) {
    std::vector<std::size_t> out(rows.size());
    std::iota(out.begin(), out.end(), std::size_t(0));
    std::stable_sort(out.begin(), out.end(), [&](std::size_t a, std::size_t b) {
        switch (order) {
        case ObjectOrder::name:
            return rows[a].name < rows[b].name;
        case ObjectOrder::triangles:
            return rows[a].triangles > rows[b].triangles;
        case ObjectOrder::fragments:
            return rows[a].fragments > rows[b].fragments;
        case ObjectOrder::evaluations:
            return rows[a].evaluations > rows[b].evaluations;
        }
        return false;
    });
    return out;
}

std::vector<std::size_t> ordered(const Ledger& ledger, LedgerOrder order) {
    std::vector<std::size_t> out(ledger.rows.size());
    std::iota(out.begin(), out.end(), std::size_t(0));
    const auto& r = ledger.rows;
    std::stable_sort(out.begin(), out.end(), [&](std::size_t a, std::size_t b) {
        switch (order) {
        case LedgerOrder::cost:
            return r[a].costShare > r[b].costShare;
        case LedgerOrder::contribution:
            return r[a].contributionShare > r[b].contributionShare;
        case LedgerOrder::ratio: // what costs without giving leads; lights that cost nothing come last
            if ((r[a].evaluations == 0) != (r[b].evaluations == 0)) return r[a].evaluations > 0;
            return r[a].ratio < r[b].ratio;
        case LedgerOrder::name:
            return r[a].name < r[b].name;
        }
        return false;
    });
    return out;
}

} // namespace mirolux
