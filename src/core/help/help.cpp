#include "core/help/help.h"
#include "core/base/text.h"
#include "core/plan/settings.h"
#include "core/technique/technique.h"
#include <algorithm>
#include <cctype>
#include <sstream>

namespace mirolux {

namespace {

/// A topic's file taken apart.
struct Topic {
    std::string name, title, words, body;
    std::vector<std::string> keys;
};

Topic topic_of(const std::string& name, const std::string& text) {
    Topic t;
    t.name = name;
    std::istringstream lines(text);
    std::string line;
    while (std::getline(lines, line)) {
        if (line.starts_with("# ") && t.title.empty())
            t.title = line.substr(2);
        else if (line.starts_with("Keys:") && t.body.empty()) {
            std::istringstream keys(line.substr(5));
            for (std::string key; std::getline(keys, key, ',');)
                if (key.erase(0, key.find_first_not_of(' ')); !key.empty()) t.keys.push_back(key);
        } else if (line.starts_with("Words:") && t.body.empty())
            t.words = line.substr(6);
        else if (!t.body.empty() || !line.empty())
            t.body += line + "\n";
    }
    return t;
}

std::string lowered(std::string text) {
    for (char& c : text)
        c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return text;
}

HelpPage page_of(const Setting& s, const Topic* topic) {
    std::string range = s.kind == SettingKind::toggle   ? "on or off"
                        : s.kind == SettingKind::choice ? joined(s.choices)
                        : s.kind == SettingKind::text   ? "a name"
                        : s.kind == SettingKind::color  ? "red, green, blue from 0 to " + number_text(s.high)
                                                        : number_text(s.low) + " to " + number_text(s.high);
    if (!s.unit.empty()) range += " " + s.unit;
    std::string body =
        s.help + "\n\n`" + s.key + "`, station " + s.station + ": " + range + "; at first " + to_text(s.standard) + ".";
    for (const Condition& c : s.when) {
        const int other = setting_index(c.key);
        body += "\n\nMeans something when " +
                (other < 0 ? c.key : all_settings()[static_cast<std::size_t>(other)].label) + " is " +
                joined(c.words, " or ") + ".";
    }
    if (topic) body += "\n\n#### " + topic->title + "\n\n" + topic->body;
    return {s.key, s.label, body, s.key + " " + s.station + (topic ? " " + topic->words : "")};
}

} // namespace

const std::vector<HelpPage>& help_pages() {
    static const std::vector<HelpPage> all = [] {
        std::vector<Topic> topics;
        for (const auto& [name, text] : help_topics())
            topics.push_back(topic_of(name, text));
        std::vector<HelpPage> pages;
        for (const Setting& s : all_settings()) {
            const auto it = std::find_if(topics.begin(), topics.end(), [&](const Topic& t) {
                return std::find(t.keys.begin(), t.keys.end(), s.key) != t.keys.end();
            });
            pages.push_back(page_of(s, it == topics.end() ? nullptr : &*it));
        }
        for (const Topic& t : topics)
            pages.push_back({"topic:" + t.name, t.title, t.body, t.words + " " + joined(t.keys, " ")});
        for (const LayerInfo& l : all_layers())
            pages.push_back({"layer:" + l.name, "Layer: " + l.label, l.help, l.name + " layer thumbnail"});
        for (const Counter& c : all_counters())
            pages.push_back(
                {"counter:" + c.name, "Counter: " + c.label, "Counts " + c.meaning + ".", c.name + " work"});
        return pages;
    }();
    return all;
}

const HelpPage* find_help(const std::string& id) {
    for (const HelpPage& p : help_pages())
        if (p.id == id) return &p;
    return nullptr;
}

std::vector<const HelpPage*> search_help(const std::string& query, const std::vector<HelpPage>& more) {
    std::vector<std::string> parts;
    std::istringstream words(lowered(query));
    for (std::string w; words >> w;)
        parts.push_back(w);
    std::vector<std::pair<int, const HelpPage*>> found;
    if (!parts.empty())
        for (const auto* list : {&help_pages(), &more})
            for (const HelpPage& p : *list) {
                const std::string title = lowered(p.title + " " + p.id), named = lowered(p.words),
                                  body = lowered(p.body);
                int rank = 0;
                for (const std::string& w : parts) {
                    const int place = title.find(w) != std::string::npos   ? 0
                                      : named.find(w) != std::string::npos ? 1
                                      : body.find(w) != std::string::npos  ? 2
                                                                           : 1000;
                    rank += place;
                }
                // What is only named or told there: the topic stands before the settings that it explains.
                const bool behind = rank > 0 && p.id.rfind("topic:", 0) != 0;
                if (rank < 1000) found.emplace_back(2 * rank + behind, &p);
            }
    std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<const HelpPage*> out;
    for (const auto& [rank, page] : found)
        out.push_back(page);
    return out;
}

} // namespace mirolux
