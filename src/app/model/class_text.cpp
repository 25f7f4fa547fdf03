#include "app/model/class_text.h"

#include <QSettings>
#include <QStringList>
#include <algorithm>

#include "core/cloud/classes.h"

namespace pristine::app {
namespace {

constexpr const char* kRecent = "classes/recent";
constexpr std::size_t kMostRecent = 6;

}  // namespace

QString class_text(const site::Site& site, std::uint8_t code) {
    const bool named = !cloud::class_name(code).empty() ||
                       std::any_of(site.classes.begin(), site.classes.end(), [&](const site::SiteClass& c) {
                           return c.code == code && !c.name.empty();
                       });
    if (!named) return QString::number(code);
    return QStringLiteral("%1 %2").arg(code).arg(QString::fromStdString(site::class_name(site, code)));
}

std::vector<std::uint8_t> classes_to_choose(const site::Site& site) {
    std::vector<std::uint8_t> out;
    for (int code = 0; code < 256; ++code)
        if (!cloud::class_name(code).empty()) out.push_back(static_cast<std::uint8_t>(code));
    for (const site::SiteClass& c : site.classes) out.push_back(c.code);
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

std::vector<std::uint8_t> recent_classes() {
    std::vector<std::uint8_t> out;
    for (const QString& word : QSettings().value(QLatin1String(kRecent)).toStringList()) {
        bool number = false;
        const int code = word.toInt(&number);
        if (number && code >= 0 && code < 256 && out.size() < kMostRecent)
            out.push_back(static_cast<std::uint8_t>(code));
    }
    return out;
}

void remember_class(std::uint8_t code) {
    QStringList words{QString::number(code)};
    for (const std::uint8_t other : recent_classes())
        if (other != code && words.size() < static_cast<qsizetype>(kMostRecent))
            words << QString::number(other);
    QSettings().setValue(QLatin1String(kRecent), words);
}

}  // namespace pristine::app
