#pragma once
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

// What reports are written with: HTML and SVG.
namespace mirolux {

/// An attribute of an element; numbers are written to a tenth, as drawings need them.
struct Attribute {
    Attribute(std::string_view name, std::string_view value) : name(name), value(value) {}
    Attribute(std::string_view name, double value);
    std::string name, value;
};
using Attributes = std::vector<Attribute>;

/// Writes HTML 5 and SVG 1.1 one after the other into a text. What is put in is escaped here and nowhere else; an
/// element ends where its scope does, so that no page can be left open.
class Markup {
public:
    /// Ends its element when it goes out of scope.
    class [[nodiscard]] Scope {
    public:
        Scope(Markup& to, std::string_view name) : to_(to), name_(name) {}
        ~Scope() { to_.out_ += "</" + name_ + ">"; }
        Scope(const Scope&) = delete;
        Scope& operator=(const Scope&) = delete;

    private:
        Markup& to_;
        std::string name_;
    };
    /// An element that holds what is written until its scope ends.
    Scope open(std::string_view name, const Attributes& attributes = {});
    /// An element with text alone.
    Markup& put(std::string_view name, std::string_view text, const Attributes& attributes = {});
    /// An element that holds nothing: br, img, path.
    Markup& mark(std::string_view name, const Attributes& attributes = {});
    Markup& text(std::string_view text);
    /// A list of points, one a line; nothing if there are none.
    Markup& list(const std::vector<std::string>& points);
    /// What another writer has written.
    Markup& add(const Markup& other);
    /// A table's row of cells.
    Markup& row(std::string_view cell, const std::vector<std::string>& texts);
    const std::string& written() const { return out_; }

private:
    void begin(std::string_view name, const Attributes& attributes);
    std::string out_;
};

/// A whole page with its title as heading; body writes what comes under it.
template <class Body>
std::string page(const std::string& title, std::string_view style, const Body& body) {
    Markup m;
    {
        const auto html = m.open("html", {{"lang", "en"}});
        m.mark("meta", {{"charset", "utf-8"}}).put("title", title).put("style", style).put("h1", title);
        body(m);
    }
    return "<!doctype html>" + m.written() + "\n";
}

/// A PNG as an address that holds it.
std::string data_address(const std::vector<std::uint8_t>& png);
/// The colour of a pass family as CSS has it.
std::string family_ink(const std::string& family);

} // namespace mirolux
