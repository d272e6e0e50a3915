#pragma once
#include <map>
#include <string>
#include <vector>

namespace mirolux {

/// A short page: what a thing is, what it does to picture and cost, its formula, its source.
struct HelpPage {
    std::string id;    // a setting's key, "topic:NAME", "layer:NAME", "counter:NAME"; others by who made them
    std::string title; // as the window calls it
    std::string body;  // Markdown, without the title
    std::string words; // what it is found by beside title and body: keys, synonyms
};

/// Pages of every setting, layer and counter, from their declarations, and of every topic of docs/help. A setting's
/// page ends with the topic that names it.
const std::vector<HelpPage>& help_pages();
/// The page of this id, or null.
const HelpPage* find_help(const std::string& id);

/// Pages that hold every word of the query, best first: in the title or the id, then in the words, then in the body.
/// `more`: pages beside those of the declarations.
std::vector<const HelpPage*> search_help(const std::string& query, const std::vector<HelpPage>& more = {});

/// Topics as they stand in docs/help, by name: "# Title", "Keys: settings", "Words: synonyms", the body.
const std::map<std::string, std::string>& help_topics();

} // namespace mirolux
