#include "app/look/preferences.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QSettings>
#include <algorithm>
#include <array>
#include <string>

#include "core/base/error.h"
#include "core/base/memory.h"
#include "core/site/site.h"

namespace pristine::app {
namespace {

constexpr double kGiB = 1024.0 * 1024 * 1024;
constexpr const char* kKey = "preferences";
constexpr const char* kKind = "pristine_settings";

Preferences& in_force() {
    static Preferences p;
    return p;
}

// By their places in the enum: names that never change.
constexpr std::array<const char*, 4> kRoles{"spot", "breakline", "boundary", "ignored"};

QJsonObject codes_json(const site::CodeTable& t) {
    QJsonArray rules;
    for (const site::CodeRule& r : t.rules)
        rules.append(QJsonObject{{"code", QString::fromStdString(r.code)},
                                 {"role", kRoles[static_cast<std::size_t>(r.role)]}});
    return {{"start", QString::fromStdString(t.start)},
            {"end", QString::fromStdString(t.end)},
            {"close", QString::fromStdString(t.close)},
            {"rules", rules}};
}

// A rule without a code, or of a role that is not known, is passed over.
site::CodeTable codes_from(const QJsonObject& o) {
    site::CodeTable t;
    const auto mark = [&](const char* key, std::string& out) {
        if (o.contains(key)) out = o.value(key).toString().toStdString();
    };
    mark("start", t.start);
    mark("end", t.end);
    mark("close", t.close);
    for (const QJsonValue& v : o.value("rules").toArray()) {
        const std::string code = v.toObject().value("code").toString().toStdString(),
                          role = v.toObject().value("role").toString().toStdString();
        const auto known = std::find(kRoles.begin(), kRoles.end(), role);
        if (!code.empty() && known != kRoles.end())
            t.rules.push_back({code, static_cast<site::CodeRole>(known - kRoles.begin())});
    }
    return t;
}

void apply(const Preferences& p) {
    in_force() = p;
    if (p.memory_gib > 0 && !qEnvironmentVariableIsSet("PRISTINE_MEMORY"))
        set_memory_budget(static_cast<std::uint64_t>(p.memory_gib * kGiB));
    site::set_person(p.person.trimmed().toStdString());
    set_scratch_folder(p.scratch.toStdString());
}

}  // namespace

const Preferences& preferences() {
    return in_force();
}

void apply_preferences() {
    Preferences p;
    try {
        if (const QByteArray kept = QSettings().value(kKey).toByteArray(); !kept.isEmpty())
            p = read_preferences(kept);
    } catch (const Error&) {
        // Damaged: as if nothing had been set.
    }
    // Of versions that kept this alone.
    if (p.memory_gib <= 0) p.memory_gib = QSettings().value("memory_gib", 0).toDouble();
    apply(p);
}

void set_preferences(const Preferences& p) {
    QSettings().setValue(kKey, written(p));
    QSettings().remove("memory_gib");
    apply(p);
}

QByteArray written(const Preferences& p) {
    QJsonObject o{{kKind, 1},
                  {"memory_gib", p.memory_gib},
                  {"person", p.person},
                  {"wheel_turned", p.wheel_turned},
                  {"turn_with_middle", p.turn_with_middle},
                  {"turning", p.turning},
                  {"space_speed", p.space_speed},
                  {"space_viewer", p.space_viewer},
                  {"more_digits", p.more_digits},
                  {"sagitta_m", p.sagitta_m},
                  {"reasons", QJsonArray::fromStringList(p.reasons)},
                  {"scratch", p.scratch},
                  {"codes", codes_json(p.codes)}};
    return QJsonDocument(o).toJson();
}

Preferences read_preferences(const QByteArray& bytes) {
    const QJsonDocument document = QJsonDocument::fromJson(bytes);
    const QJsonObject o = document.object();
    if (!o.contains(kKind))
        throw Error(ErrorCode::Format, "This is no file of settings", {},
                    "One is written by Site › Settings… › Export.");
    if (o.value(kKind).toInt() > 1)
        throw Error(ErrorCode::Unsupported, "The settings were written by a later version of this program");
    const Preferences usual;
    Preferences p;
    const auto number = [&](const char* key, double otherwise, double least, double most) {
        return std::clamp(o.value(key).toDouble(otherwise), least, most);
    };
    p.memory_gib = number("memory_gib", 0, 0, 4096);
    p.person = o.value("person").toString();
    p.wheel_turned = o.value("wheel_turned").toBool();
    p.turn_with_middle = o.value("turn_with_middle").toBool();
    p.turning = number("turning", usual.turning, 0.1, 10);
    p.space_speed = number("space_speed", usual.space_speed, 0.1, 10);
    p.space_viewer = o.value("space_viewer").toBool();
    p.more_digits = std::clamp(o.value("more_digits").toInt(), 0, 3);
    p.sagitta_m = number("sagitta_m", usual.sagitta_m, 0.0001, 10);
    for (const QJsonValue& v : o.value("reasons").toArray())
        if (const QString reason = v.toString().trimmed(); !reason.isEmpty()) p.reasons << reason;
    p.scratch = o.value("scratch").toString();
    p.codes = codes_from(o.value("codes").toObject());
    return p;
}

}  // namespace pristine::app
