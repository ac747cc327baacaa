// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/levels/project_form.h"

#include "app/crowd/crowd_dialog.h"

#include <QGridLayout>

#include <cmath>

namespace stone
{

ProjectForm::ProjectForm(Session& session, Playback& playback, QWidget* parent) : ThingForm(session, parent)
{
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    grid->addWidget(labelled(tr("Title"), words("projectName", tr("Title"), [](Project& p) -> std::string& { return p.name; })),
                    0, 0, 1, 2);
    grid->addWidget(labelled(tr("Line under it"), words("projectSubtitle", tr("Line under the title"),
                                                        [](Project& p) -> std::string& { return p.subtitle; })),
                    0, 2);
    auto* voices = new NumberField({}, 1, 4096, 0, 8);
    voices->setObjectName("voices");
    voices->setToolTip(tr("How many sounds may be mixed at once. Beyond them the least important and softest give way"));
    shows_.push_back([voices](const Project& p) { voices->present(p.voices); });
    connect(voices, &NumberField::valueEdited, this, [this](double value) {
        const int wanted = static_cast<int>(std::lround(value));
        edit(tr("%n voices", nullptr, wanted), "voices", [wanted](Project& p) { p.voices = wanted; });
    });
    connect(voices, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    grid->addWidget(labelled(tr("Voices"), voices), 1, 0);
    auto* crowd = new QPushButton(tr("who gives way…"));
    crowd->setObjectName("voicesOpen");
    crowd->setProperty("link", true);
    crowd->setToolTip(tr("The picture of voices, their limit and its rule"));
    connect(crowd, &QPushButton::clicked, this, [this, &playback] {
        auto* dialog = new CrowdDialog(session_, playback, window());
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->show();
    });
    grid->addWidget(crowd, 2, 1, Qt::AlignLeft | Qt::AlignBottom);
    const auto air = [&](int row, int column, const QString& label, const NumberWords& words, const NumberSteps& steps,
                         double Air::*member) {
        grid->addWidget(labelled(label, number(words, steps.over(rangeOf(member)),
                                               [member](Project& p) -> double& { return p.air.*member; })),
                        row, column);
    };
    air(1, 1, tr("Air temperature"),
        {"airTemperature", tr("°C"), tr("air at %1 °C"), tr("Sets how fast sound is, and what the air takes of the treble")},
        {1, 1}, &Air::temperature_c);
    air(1, 2, tr("Humidity"),
        {"airHumidity", "%", tr("humidity %1 %"), tr("Of the air: dry air takes more of the treble over distance")}, {0, 5},
        &Air::humidity_pct);
    air(2, 0, tr("Air pressure"), {"airPressure", "kPa", tr("air pressure %1 kPa"), tr("101.3 at the sea, 90 on a mountain")},
        {1, 1}, &Air::pressure_kpa);
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
}

void ProjectForm::edit(const QString& what, const QString& gesture, const std::function<void(Project&)>& change)
{
    Project next = session_.project();
    change(next);
    session_.edit(std::move(next), tr("Project: %1").arg(what), gesture);
}

} // namespace stone
