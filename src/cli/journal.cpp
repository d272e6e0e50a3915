#include "core/cost/journal.h"
#include "cli/commands.h"
#include "core/base/text.h"
#include "core/cost/walk.h"
#include "core/io/file.h"
#include <fmt/format.h>

namespace mirolux::cli {

int journal(const Common& c, const JournalArguments& a) {
    const auto path = logbook_path(c.scene);
    std::error_code ec;
    if (!std::filesystem::exists(path, ec))
        return complain({"has no logbook", c.scene, "Log a state in the window, or with mirolux-cli measure --log."},
                        badInput);
    auto book = Logbook::open(path);
    if (!book) return complain(book.error(), badInput);
    if (!a.kind.empty()) {
        auto records = book->records(a.kind, a.query);
        if (!records) return complain(records.error(), badInput);
        Json list = Json::array();
        std::string text;
        for (std::size_t i = 0; i < records->size(); ++i) { // the newest first
            const HistoryRecord& r = (*records)[i];
            const Json document = Json::parse(r.document, nullptr, false);
            list.push_back({{"id", r.id},
                            {"created", r.created},
                            {"kind", r.kind},
                            {"device", r.device},
                            {"sceneDigest", r.sceneDigest},
                            {"setupDigest", r.setupDigest},
                            {"document", document.is_discarded() ? Json() : document}});
            text += r.created + "  " + r.kind;
            if (document.is_discarded()) text += ": its document cannot be read";
            const Json comparison =
                document.is_object() && document.contains("comparison") ? document["comparison"] : Json();
            if (comparison.is_object() && comparison.contains("ratio") && comparison["ratio"].is_number())
                text += ": B takes " + number_text(comparison["ratio"].get<double>()) + " times A's time" +
                        (comparison.contains("verdict") && comparison["verdict"].is_string()
                             ? ", " + comparison["verdict"].get<std::string>()
                             : "");
            const auto told = [&](const char* part, const char* key) -> std::optional<double> {
                if (!comparison.is_object() || !comparison.contains(part)) return std::nullopt;
                const Json& of = comparison[part];
                if (!of.is_object() || !of.contains(key) || !of[key].is_number()) return std::nullopt;
                return of[key].get<double>();
            };
            if (const auto first = told("bytes", "a"), second = told("bytes", "b"); first && second)
                text += fmt::format("; {:.1f} MiB {}", std::abs(*second - *first) / (1 << 20),
                                    *second < *first ? "less" : "more");
            if (const auto off = told("picture", "meanRelative"))
                text += fmt::format(", picture off by {:.2f} %", 100 * *off);
            if (document.is_object() && document.contains("p95Ms") && document["p95Ms"].is_number())
                text += ": p95 " + number_text(document["p95Ms"].get<double>()) + " ms";
            if (r.kind == "walk" && document.is_object()) {
                const bool first = i + 1 == records->size();
                const auto gain =
                    first ? std::nullopt : gain_of(Json::parse((*records)[i + 1].document, nullptr, false), document);
                if (document.contains("step") && document["step"].is_string()) {
                    list.back()["step"] = document["step"];
                    text += "; " + document["step"].get<std::string>();
                }
                if (gain) {
                    list.back()["against"] = {
                        {"ratio", gain->ratio}, {"low", gain->low}, {"high", gain->high}, {"verdict", gain->verdict}};
                    text += fmt::format(": {:.3f} times the walk before ({:.3f} to {:.3f}), {}", gain->ratio, gain->low,
                                        gain->high, gain->verdict);
                }
            }
            text += "\n";
        }
        return deliver(c, text.empty() ? "none was logged\n" : text,
                       {{"schema", "mirolux.history"}, {"version", 1}, {"records", list}});
    }
    auto report =
        journal_report(*book, a.query, std::filesystem::path(c.scene).stem().string() + ": journal of changes");
    if (!report) return complain(report.error(), badInput);
    for (const auto& [file, content] : {std::pair{a.html, a.html.empty() ? std::string() : journal_html(*report)},
                                        {a.csv, a.csv.empty() ? std::string() : journal_csv(*report)}})
        if (!file.empty())
            if (auto ok = write_file_atomically(file, content); !ok) return complain(ok.error(), badInput);
    std::string text;
    for (std::size_t i = 0; i < report->entries.size(); ++i) {
        const Entry& e = report->entries[i];
        text += fmt::format("{:4}  {}  {:9.2f} ms  ({:.2f} to {:.2f})  budget {:.2f}  ", i + 1, e.created,
                            e.frame.median, e.frame.low, e.frame.high, e.budgetMs) +
                step_name(e);
        const std::string words = step_words(e, i ? &report->entries[i - 1] : nullptr);
        text += (words.empty() ? "" : "; " + words) + "\n";
    }
    if (report->entries.empty()) text = "no entry fits\n";
    return deliver(c, text, journal_json(*report));
}

} // namespace mirolux::cli
