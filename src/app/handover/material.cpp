#include "app/handover/material.h"

#include <QCoreApplication>
#include <QDate>
#include <QSettings>

#include "app/model/document.h"
#include "core/base/error.h"
#include "render/report_pictures.h"

namespace pristine::app {

report::Material material_of(const Document& document) {
    report::Material m;
    m.site = document.site();
    m.project = document.file().string();
    m.program = ("Pristine Cloud " + QCoreApplication::applicationVersion()).trimmed().toStdString();
    m.date = QDate::currentDate().toString(Qt::ISODate).toStdString();
    m.draw = render::picture_of;
    return m;
}

report::Setup kept_setup(const Document& document) {
    const site::Site& s = *document.site();
    const std::string kept = document.kept_note(report::kSetupNote);
    try {
        if (!kept.empty()) return report::on_site(report::setup_from_json(kept), s);
    } catch (const Error&) {  // of a later version, or damaged
    }
    report::Setup setup = report::proposed(s);
    const QSettings own;
    setup.office = own.value("report/office").toString().toStdString();
    setup.surveyor = own.value("report/surveyor").toString().toStdString();
    setup.logo = QByteArray::fromBase64(own.value("report/logo").toByteArray()).toStdString();
    if (const std::string size = own.value("report/size").toString().toStdString(); !size.empty())
        setup.page.size = size;
    return setup;
}

}  // namespace pristine::app
