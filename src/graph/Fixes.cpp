#include "graph/Fixes.h"

#include "graph/EditChain.h"
#include "graph/NodeSpec.h"
#include "graph/ScanCleaning.h"
#include "operators/Catalogue.h"

namespace seedloom {

namespace {

/// The link into a node's port; an empty name is the first, which links may also call by its own.
const Link* linkInto(const Loom& loom, const std::string& node, const std::string& port) {
    const Node* to = loom.node(node);
    const OperatorSpec* spec = to ? findOperator(to->op) : nullptr;
    const std::string first = spec && !spec->inputs.empty() ? spec->inputs.front().id : std::string();
    const auto named = [&](const std::string& name) { return name == first ? std::string() : name; };
    for (const Link& link : loom.links)
        if (link.to == node && named(link.in) == named(port)) return &link;
    return nullptr;
}

/// `edit` with the new node's settings, as one step.
Edit withSettings(const Loom& loom, const Edit& edit, const std::string& node, const NoticeFix& fix) {
    EditChain chain(loom);
    chain.then(edit);
    for (const auto& [setting, value] : fix.settings) chain.then(setSetting(chain.loom(), node, setting, value));
    return chain.finish(edit.label);
}

/// A new node into a port that nothing feeds; what feeds the input `fix.from` of the node feeds the new one, too.
Edit feeding(const Loom& loom, const std::string& node, const NoticeFix& fix, std::string* id) {
    const Edit edit = addNodeFeeding(loom, fix.op, node, fix.port, id);
    const Link* shared = fix.from.empty() ? nullptr : linkInto(loom, node, fix.from);
    if (!shared) return edit;
    EditChain chain(loom);
    chain.then(edit);
    chain.then(addLink(chain.loom(), {shared->from, shared->out, *id, "", Json::object()}));
    return chain.finish(edit.label);
}

Edit added(const Loom& loom, const std::string& node, const NoticeFix& fix, std::string* made) {
    std::string id;
    const Node* behind = loom.node(node);
    if (!behind || !findOperator(fix.op)) return {};
    const Link* before = fix.kind == NoticeFix::Kind::insert ? linkInto(loom, node, fix.port) : nullptr;
    const bool inserts = fix.kind == NoticeFix::Kind::insert;
    const Edit edit = before ? insertOnLink(loom, fix.op, *before, &id) : inserts ? feeding(loom, node, fix, &id) : addNodeAfter(loom, fix.op, node, &id);
    if (made) *made = id;
    return withSettings(loom, edit, id, fix);
}

}  // namespace

Edit fixed(const Loom& loom, const Assets& assets, const std::string& node, const NoticeFix& fix, std::string* made) {
    switch (fix.kind) {
        case NoticeFix::Kind::set: return loom.node(node) ? setSetting(loom, node, fix.setting, fix.value, assets) : Edit{};
        case NoticeFix::Kind::link:
            return loom.node(fix.from) && loom.node(node) ? addLink(loom, {fix.from, "", node, fix.port, Json::object()}, assets) : Edit{};
        case NoticeFix::Kind::add:
        case NoticeFix::Kind::insert: return added(loom, node, fix, made);
        case NoticeFix::Kind::clean: return scanCleaned(loom, assets, node, fix, made);
        case NoticeFix::Kind::ask:
        case NoticeFix::Kind::show: break;
    }
    return {};
}

std::string nodeShownBy(const Loom& loom, const std::string& node, const NoticeFix& fix) {
    if (fix.port.empty()) return node;
    const Link* link = linkInto(loom, node, fix.port);
    return link ? link->from : node;
}

}  // namespace seedloom
