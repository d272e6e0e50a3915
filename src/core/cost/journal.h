#pragma once
#include "core/cost/logbook.h"

namespace mirolux {

/// Where entries stand on the journal's axis of time: real time, but a pause longer than `longest` median steps is cut
/// to that, so that a night does not press the day together. places: ascending, 0 to 1, parallel to the times; pauses:
/// true where the way to this entry was cut.
struct JournalAxis {
    std::vector<double> places;
    std::vector<bool> pauses;
};
JournalAxis journal_axis(const std::vector<std::int64_t>& times, double longest = 4.0);

/// Lanes for labels that stand at ascending x: the lowest lane whose last label ends before, or -1 where none is free.
std::vector<int> label_lanes(const std::vector<double>& x, const std::vector<double>& widths, int lanes);

/// The step in a few words: the note, else the first change.
std::string step_name(const Entry& entry);

enum class StepVerdict { first, faster, slower, notShown, otherSize };
/// The entry against the one before it. The two were measured one after the other: a word is said only where their
/// intervals are apart.
StepVerdict step_verdict(const Entry& entry, const Entry* before);
std::string step_words(const Entry& entry,
                       const Entry* before); // "-12.3 ms (-41 %)", "no difference shown", "another size"

struct JournalReport {
    std::string title, sceneDigest;
    std::vector<Entry> entries;            // oldest first
    std::vector<std::string> measurements; // their JSON, parallel
    std::vector<std::string> overall;      // what changed from the first to the last, in words
};
/// Reads the entries that the query names with all that the report shows.
Result<JournalReport> journal_report(const Logbook& logbook, const EntryQuery& query, const std::string& title);

/// A self-contained page: the story as a plot, each step with its picture, environment, what changed overall, raw
/// numbers. Sections without content are left out. Prints on A4 without cutting a step in two.
std::string journal_html(const JournalReport& report);
/// One row an entry.
std::string journal_csv(const JournalReport& report);
nlohmann::json journal_json(const JournalReport& report);
/// The plot alone.
std::string journal_svg(const std::vector<Entry>& entries, double width, double height);

} // namespace mirolux
