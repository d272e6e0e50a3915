#include "app/tabular_font.h"
#include <QFile>
#include <QFontDatabase>
#include <QStringList>
#include <map>
#include <stdexcept>
#include <vector>

namespace mirolux::app {
namespace {

/// Big-endian reads that never leave the table.
class Table {
public:
    explicit Table(QByteArray bytes) : bytes_(std::move(bytes)) {}
    unsigned u16(unsigned at) const { return byte(at) << 8 | byte(at + 1); }
    unsigned u32(unsigned at) const { return u16(at) << 16 | u16(at + 2); }
    QByteArray tag(unsigned at) const { return bytes_.mid(at, 4); }
    const QByteArray& bytes() const { return bytes_; }

private:
    unsigned byte(unsigned at) const {
        if (at >= static_cast<unsigned>(bytes_.size())) throw std::out_of_range("beyond the table");
        return static_cast<unsigned char>(bytes_[at]);
    }
    QByteArray bytes_;
};

void put16(QByteArray& to, unsigned v) {
    to.append(static_cast<char>(v >> 8)).append(static_cast<char>(v));
}
void put32(QByteArray& to, unsigned v) {
    put16(to, v >> 16);
    put16(to, v & 0xffff);
}

using Tables = std::map<QByteArray, Table>;

Tables tables_of(const QByteArray& font) {
    const Table head(font);
    Tables tables;
    for (unsigned i = 0; i < head.u16(4); ++i) {
        const unsigned record = 12 + 16 * i;
        tables.emplace(head.tag(record), Table(font.mid(head.u32(record + 8), head.u32(record + 12))));
    }
    return tables;
}

/// Code point to glyph of a cmap's format 4 or 12.
std::map<unsigned, unsigned> characters_of(const Table& cmap) {
    std::map<unsigned, unsigned> glyphs;
    for (unsigned i = 0; i < cmap.u16(2); ++i) {
        const unsigned at = cmap.u32(4 + 8 * i + 4);
        if (cmap.u16(at) == 12)
            for (unsigned g = 0; g < cmap.u32(at + 12); ++g) {
                const unsigned group = at + 16 + 12 * g, first = cmap.u32(group), last = cmap.u32(group + 4);
                for (unsigned c = first; c <= last && c - first < 0x10000; ++c)
                    glyphs[c] = cmap.u32(group + 8) + c - first;
            }
        else if (cmap.u16(at) == 4) {
            const unsigned n = cmap.u16(at + 6) / 2, ends = at + 14, starts = ends + 2 * n + 2, deltas = starts + 2 * n,
                           offsets = deltas + 2 * n;
            for (unsigned s = 0; s < n; ++s)
                for (unsigned c = cmap.u16(starts + 2 * s); c <= cmap.u16(ends + 2 * s) && c != 0xffff; ++c) {
                    const unsigned offset = cmap.u16(offsets + 2 * s);
                    unsigned glyph = c;
                    if (offset) glyph = cmap.u16(offsets + 2 * s + offset + 2 * (c - cmap.u16(starts + 2 * s)));
                    if (!offset || glyph) glyph = (glyph + cmap.u16(deltas + 2 * s)) & 0xffff;
                    glyphs.emplace(c, glyph);
                }
        }
    }
    return glyphs;
}

std::vector<unsigned> covered(const Table& gsub, unsigned at) {
    std::vector<unsigned> glyphs;
    const unsigned n = gsub.u16(at + 2);
    for (unsigned i = 0; i < n; ++i)
        if (gsub.u16(at) == 1)
            glyphs.push_back(gsub.u16(at + 4 + 2 * i));
        else
            for (unsigned g = gsub.u16(at + 4 + 6 * i); g <= gsub.u16(at + 6 + 6 * i); ++g)
                glyphs.push_back(g);
    return glyphs;
}

/// Glyph to glyph of a feature's single substitutions.
std::map<unsigned, unsigned> substitutions_of(const Table& gsub, const QByteArray& feature) {
    std::map<unsigned, unsigned> to;
    const unsigned features = gsub.u16(6), lookups = gsub.u16(8);
    for (unsigned f = 0; f < gsub.u16(features); ++f) {
        if (gsub.tag(features + 2 + 6 * f) != feature) continue;
        const unsigned record = features + gsub.u16(features + 2 + 6 * f + 4);
        for (unsigned l = 0; l < gsub.u16(record + 2); ++l) {
            const unsigned lookup = lookups + gsub.u16(lookups + 2 + 2 * gsub.u16(record + 4 + 2 * l));
            for (unsigned s = 0; s < gsub.u16(lookup + 4); ++s) {
                unsigned at = lookup + gsub.u16(lookup + 6 + 2 * s), type = gsub.u16(lookup);
                if (type == 7) { // an extension: the same, farther away
                    type = gsub.u16(at + 2);
                    at += gsub.u32(at + 4);
                }
                if (type != 1) continue;
                const auto from = covered(gsub, at + gsub.u16(at + 2));
                for (unsigned i = 0; i < from.size(); ++i)
                    to[from[i]] = gsub.u16(at) == 1 ? (from[i] + gsub.u16(at + 4)) & 0xffff : gsub.u16(at + 6 + 2 * i);
            }
        }
    }
    return to;
}

QByteArray cmap_of(const std::map<unsigned, unsigned>& glyphs) {
    QByteArray groups;
    unsigned count = 0;
    for (auto it = glyphs.begin(); it != glyphs.end();) {
        const auto first = it;
        unsigned length = 0;
        for (; it != glyphs.end() && it->first == first->first + length && it->second == first->second + length; ++it)
            ++length;
        put32(groups, first->first);
        put32(groups, first->first + length - 1);
        put32(groups, first->second);
        ++count;
    }
    QByteArray table;
    // One subtable under two names: FreeType makes up a map of its own where it finds neither (0, x) nor (3, 1).
    for (const unsigned v : {0u, 2u, 0u, 4u})
        put16(table, v);
    put32(table, 20);
    put16(table, 3);
    put16(table, 10);
    put32(table, 20);
    put16(table, 12);
    put16(table, 0);
    put32(table, 16 + 12 * count);
    put32(table, 0);
    put32(table, count);
    return table + groups;
}

} // namespace

QByteArray with_tabular_digits(const QByteArray& font, const QString& family) try {
    Tables tables = tables_of(font);
    if (!tables.count("cmap") || !tables.count("GSUB") || !tables.count("name")) return {};
    auto glyphs = characters_of(tables.at("cmap"));
    const auto tabular = substitutions_of(tables.at("GSUB"), "tnum");
    int found = 0;
    for (unsigned c = '0'; c <= '9'; ++c)
        if (const auto it = tabular.find(glyphs[c]); it != tabular.end()) {
            glyphs[c] = it->second;
            ++found;
        }
    if (found < 10) return {};
    tables.at("cmap") = Table(cmap_of(glyphs));
    // A family of its own, so that it does not meet the installed one: the name in place, of the same length.
    const auto utf16 = [](const QString& text) {
        QByteArray out;
        for (const QChar c : text)
            put16(out, c.unicode());
        return out;
    };
    QByteArray names = tables.at("name").bytes();
    names.replace(utf16("Inter"), utf16(family.leftJustified(5, ' ', true)));
    tables.at("name") = Table(names);
    QByteArray head = font.left(12), bodies;
    for (const auto& [tag, table] : tables) {
        const QByteArray& body = table.bytes();
        head.append(tag);
        put32(head, 0); // checksums are not looked at
        put32(head, static_cast<unsigned>(12 + 16 * tables.size() + bodies.size()));
        put32(head, static_cast<unsigned>(body.size()));
        bodies.append(body);
        bodies.append(QByteArray((4 - body.size() % 4) % 4, 0));
    }
    return head + bodies;
} catch (const std::out_of_range&) {
    return {};
}

QString add_tabular_inter() {
    static const QString added = [] {
        const QString family = "Mirux";
        bool all = true;
        for (const char* weight : {"Regular", "Medium", "SemiBold", "Bold"}) {
            QFile file(QString("/usr/share/fonts/opentype/inter/Inter-%1.otf").arg(weight));
            if (!file.open(QIODevice::ReadOnly)) return QString();
            const QByteArray font = with_tabular_digits(file.readAll(), family);
            all = all && !font.isEmpty() && QFontDatabase::addApplicationFontFromData(font) >= 0;
        }
        return all && QFontDatabase::families().contains(family) ? family : QString();
    }();
    return added;
}

} // namespace mirolux::app
