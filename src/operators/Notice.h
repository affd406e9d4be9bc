#pragma once
// What is told of a node, with the changes that help, as data: whoever shows it can offer them.
#include "fields/Source.h"
#include "geometry/Geometry.h"

#include <map>
#include <string>

namespace seedloom {

enum class NoticeLevel : unsigned char { info, warning, error };

inline std::string_view levelName(NoticeLevel level) { return level == NoticeLevel::error ? "error" : level == NoticeLevel::warning ? "warning" : "info"; }

/// A change that helps. graph/Fixes makes an edit of it.
struct NoticeFix {
    enum class Kind : unsigned char {
        set,     ///< `setting` of the node becomes `value`; null resets it
        add,     ///< an `op` behind the node, with `settings`
        insert,  ///< an `op` before the node's input `port` (empty: the first), with `settings`; where nothing is linked there, what feeds its input
                 ///< `from` feeds the new node, too
        link,    ///< the node `from` into the node's input `port`
        clean,   ///< `settings` of the node, and behind it the steps of graph/ScanCleaning, as `value` says
        ask,     ///< nothing changes yet: somebody must say what `setting` is to be, and is brought to it
        show,    ///< nothing changes: the elements of the node, or of what comes in at its input `port`, are shown
    };
    Kind kind = Kind::show;
    std::string label;  ///< what the button says, beginning with a verb
    std::string setting;
    Json value;
    std::string op;
    std::map<std::string, Json> settings;
    std::string port, from;
    Element element = Element::point;
    std::vector<Index> rows;
    bool operator==(const NoticeFix&) const = default;
};

/// Rounded by `round` to two digits, as people write numbers, whatever their size; 0 where it is not over 0.
double twoDigits(double value, double (*round)(double));

NoticeFix setFix(std::string label, std::string setting, Json value);
NoticeFix addFix(std::string label, std::string op, std::map<std::string, Json> settings = {});
NoticeFix insertFix(std::string label, std::string op, std::map<std::string, Json> settings = {}, std::string port = {});
NoticeFix linkFix(std::string label, std::string from, std::string port = {});
/// `cleaning`: an object with edge_length (m), holes ("wrap": in cells, "patch": ring by ring, "leave") and inside_by (how voxel_remesh tells the inside).
NoticeFix cleanFix(std::string label, std::map<std::string, Json> settings, Json cleaning);
NoticeFix askFix(std::string label, std::string setting);
NoticeFix showFix(std::string label, Element element, std::vector<Index> rows);

/// Something to tell about a node. `code` is stable; `text` is for people.
struct Notice {
    NoticeLevel level = NoticeLevel::info;
    std::string code, text;
    std::string setting;       ///< id of the setting it is about, or empty
    std::string node;          ///< filled in by the rebuilding engine
    int line = 0, column = 0;  ///< place in a formula, from 1; 0 where it has none
    std::vector<NoticeFix> fixes = {};
};

}  // namespace seedloom
