#include "operators/Notice.h"

#include <cmath>

namespace seedloom {

double twoDigits(double value, double (*round)(double)) {
    if (!(value > 0)) return 0;
    const double digit = std::pow(10, std::floor(std::log10(value)) - 1);
    const double digits = round(value / digit);
    return digit < 1 ? digits / std::round(1 / digit) : digits * digit;  // 0.055, and not the nearest to 55 × 0.001
}

NoticeFix setFix(std::string label, std::string setting, Json value) {
    NoticeFix out;
    out.kind = NoticeFix::Kind::set;
    out.label = std::move(label), out.setting = std::move(setting), out.value = std::move(value);
    return out;
}

NoticeFix addFix(std::string label, std::string op, std::map<std::string, Json> settings) {
    NoticeFix out;
    out.kind = NoticeFix::Kind::add;
    out.label = std::move(label), out.op = std::move(op), out.settings = std::move(settings);
    return out;
}

NoticeFix insertFix(std::string label, std::string op, std::map<std::string, Json> settings, std::string port) {
    NoticeFix out = addFix(std::move(label), std::move(op), std::move(settings));
    out.kind = NoticeFix::Kind::insert;
    out.port = std::move(port);
    return out;
}

NoticeFix linkFix(std::string label, std::string from, std::string port) {
    NoticeFix out;
    out.kind = NoticeFix::Kind::link;
    out.label = std::move(label), out.from = std::move(from), out.port = std::move(port);
    return out;
}

NoticeFix cleanFix(std::string label, std::map<std::string, Json> settings, Json cleaning) {
    NoticeFix out;
    out.kind = NoticeFix::Kind::clean;
    out.label = std::move(label), out.settings = std::move(settings), out.value = std::move(cleaning);
    return out;
}

NoticeFix askFix(std::string label, std::string setting) {
    NoticeFix out;
    out.kind = NoticeFix::Kind::ask;
    out.label = std::move(label), out.setting = std::move(setting);
    return out;
}

NoticeFix showFix(std::string label, Element element, std::vector<Index> rows) {
    NoticeFix out;
    out.label = std::move(label), out.element = element, out.rows = std::move(rows);
    return out;
}

}  // namespace seedloom
