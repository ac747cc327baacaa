// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/walls/walls_dialog.h"

#include "acoustics/wall_loss.h"
#include "app/theme/labels.h"
#include "app/walls/material_dialog.h"
#include "app/walls/usual_wall.h"
#include "app/widgets/typed_dialog.h"
#include "dsp/octave_bands.h"
#include "level/surface_areas.h"
#include "project/range.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QSignalBlocker>
#include <QVBoxLayout>

namespace stone
{

namespace
{

enum Column { surfaceName, area, material, by, loss, absorption, columns };

/// A line of a table: what, and a number for each band.
QString bandsLine(const QString& what, const BandValues& values, int decimals)
{
    QString line = QString("<tr><td>%1</td>").arg(what);
    for (const double value : values) {
        line += QString("<td align='right' width='44'>%1</td>").arg(value, 0, 'f', decimals);
    }
    return line + "</tr>";
}

QTableWidgetItem* cell(const QString& text)
{
    auto* item = new QTableWidgetItem(text);
    item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
    return item;
}

} // namespace

WallsDialog::WallsDialog(Session& session, QWidget* parent)
    : QDialog(parent), session_(session), table_(new QTableWidget), about_(theme::caption({}))
{
    setWindowTitle(tr("Walls and materials"));
    setObjectName("wallsDialog");
    resize(760, 520);
    table_->setObjectName("surfaces");
    table_->setColumnCount(columns);
    table_->setHorizontalHeaderLabels(
        {tr("Surface in the level"), tr("Area"), tr("Is taken for"), tr("By"), tr("Loss at 500 Hz"), tr("Absorbs at 500 Hz")});
    table_->verticalHeader()->hide();
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->horizontalHeader()->setSectionResizeMode(material, QHeaderView::Stretch);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    about_->setObjectName("aboutMaterial");
    about_->setWordWrap(true);
    about_->setMinimumHeight(64);
    about_->setAlignment(Qt::AlignTop);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* box = new QVBoxLayout(this);
    box->addWidget(makeSettings());
    box->addWidget(table_, 1);
    box->addWidget(about_);
    box->addWidget(buttons);
    auto* own = buttons->addButton(tr("Own materials…"), QDialogButtonBox::ActionRole);
    own->setObjectName("ownMaterials");
    own->setToolTip(tr("Materials of this project, band by band"));
    connect(own, &QPushButton::clicked, this, [this] {
        auto* dialog = new MaterialDialog(session_, this);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->show();
    });
    enterEndsTyping(this);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(table_, &QTableWidget::currentCellChanged, this, &WallsDialog::tell);
    connect(&session_, &Session::documentChanged, this, &WallsDialog::refresh);
    connect(&session_, &Session::levelChanged, this, &WallsDialog::refresh);
    refresh();
    if (table_->rowCount() > 0) {
        table_->setCurrentCell(0, 0);
    }
}

QWidget* WallsDialog::makeSettings()
{
    auto* panel = new QWidget;
    auto* row = new QHBoxLayout(panel);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(10);
    const auto flag = [&](const char* name, const QString& label, const QString& help, bool Occlusion::*member) {
        auto* shown = new QCheckBox(label);
        shown->setObjectName(name);
        shown->setToolTip(help);
        connect(shown, &QCheckBox::clicked, this, [this, label, member](bool on) {
            change(on ? tr("%1 on").arg(label) : tr("%1 off").arg(label), {}, [&](Occlusion& o) { o.*member = on; });
        });
        shows_.push_back([this, shown, member] { shown->setChecked(session_.project().occlusion.*member); });
        row->addWidget(shown, 0, Qt::AlignBottom);
    };
    const auto number = [&](const char* name, const QString& label, NumberField* field, const QString& help, auto member) {
        field->setObjectName(name);
        field->setAccessibleName(label);
        field->setToolTip(help);
        connect(field, &NumberField::valueEdited, this, [this, field, label, member](double value) {
            change(tr("%1 %2").arg(label.toLower()).arg(value), field->objectName(),
                   [&](Occlusion& o) { o.*member = static_cast<std::decay_t<decltype(o.*member)>>(value); });
        });
        connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
        shows_.push_back([this, field, member] { field->present(static_cast<double>(session_.project().occlusion.*member)); });
        auto* cell = new QVBoxLayout;
        cell->setSpacing(1);
        cell->addWidget(theme::caption(label));
        cell->addWidget(field);
        row->addLayout(cell);
    };
    flag("occlusionOn", tr("Walls stop sound"), tr("Switched off, everything is heard as if in the open"), &Occlusion::on);
    flag("occlusionBends", tr("It bends round them"), tr("Round corners, over edges and underneath"), &Occlusion::bends);
    number("occlusionRays", tr("Rays to each"), new NumberField("", rangeOf(&Occlusion::rays), 0, 1),
           tr("More rays make it more gradual when something goes behind an edge, and cost more"), &Occlusion::rays);
    number("occlusionReach", tr("Reach"), new NumberField("m", rangeOf(&Occlusion::reach_m), 0, 5),
           tr("Nothing is reckoned for what is further away"), &Occlusion::reach_m);
    number("occlusionChange", tr("Changes at most"), new NumberField("dB/s", rangeOf(&Occlusion::change_db_s), 0, 5),
           tr("How fast what walls take may change in a band"), &Occlusion::change_db_s);
    number("occlusionSlender", tr("Thinner stops nothing"), new NumberField("m", rangeOf(&Occlusion::slender_m), 2, 0.05),
           tr("What is narrower in two directions, as bars and posts, stops nothing"), &Occlusion::slender_m);
    number("occlusionBody", tr("Own body"), new NumberField("m", rangeOf(&Occlusion::body_m), 2, 0.05),
           tr("What is nearer to the ears than this stops nothing: it is the listener"), &Occlusion::body_m);
    return panel;
}

void WallsDialog::change(const QString& what, const QString& gesture, const std::function<void(Occlusion&)>& change)
{
    Project next = session_.project();
    change(next.occlusion);
    session_.edit(std::move(next), tr("Walls: %1").arg(what), gesture);
}

void WallsDialog::refresh()
{
    for (const auto& show : shows_) {
        show();
    }
    const Mesh* mesh = session_.loadedLevel().mesh();
    surfaces_.clear();
    if (mesh != nullptr) {
        const std::vector<double> areas = surfaceAreas_m2(*mesh);
        for (std::size_t i = 0; i < areas.size(); ++i) {
            if (areas[i] > 0.0) {
                surfaces_.push_back({mesh->materials[i], areas[i]});
            }
        }
        std::stable_sort(surfaces_.begin(), surfaces_.end(), [](const Row& a, const Row& b) { return a.area_m2 > b.area_m2; });
    }
    table_->setRowCount(static_cast<int>(surfaces_.size()));
    for (int row = 0; row < table_->rowCount(); ++row) {
        refreshRow(row);
    }
    tell();
}

void WallsDialog::refreshRow(int row)
{
    const Project& project = session_.project();
    const auto& [surface, area_m2] = surfaces_[static_cast<std::size_t>(row)];
    const Surface found = materialOf(project.materials, project.surfaces, surface);
    table_->setItem(row, surfaceName, cell(surface.empty() ? tr("(no name)") : QString::fromStdString(surface)));
    auto* size = cell(tr("%1 m²").arg(area_m2, 0, 'f', 0));
    size->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    table_->setItem(row, area, size);
    auto* choice = qobject_cast<QComboBox*>(table_->cellWidget(row, material));
    if (choice == nullptr) {
        choice = new QComboBox;
        choice->setObjectName(QString("material%1").arg(row));
        table_->setCellWidget(row, material, choice);
        connect(choice, &QComboBox::activated, this, [this, choice, row](int index) {
            choose(surfaces_[static_cast<std::size_t>(row)].surface, {choice->itemData(index).toString().toStdString()});
        });
    }
    const QSignalBlocker quiet(choice);
    choice->clear();
    const Surface ruled = materialOf(project.materials, {}, surface);
    choice->addItem(tr("by its name: %1").arg(QString::fromStdString(ruled.material->name)), QString());
    for (const auto& materials : {project.materials, materialLibrary()}) {
        for (const Material& known : materials) {
            choice->addItem(QString::fromStdString(known.name), QString::fromStdString(known.id.text));
        }
    }
    choice->setCurrentIndex(found.by == SurfaceBy::hand ? choice->findData(QString::fromStdString(found.material->id.text))
                                                        : 0);
    static constexpr const char* bys[] = {"hand", "rule", "nothing known"};
    auto* how = cell(tr(bys[static_cast<std::size_t>(found.by)]));
    if (found.by == SurfaceBy::nothing) {
        how->setForeground(theme::cinnabar);
    }
    table_->setItem(row, by, how);
    table_->setItem(row, loss, cell(tr("%1 dB").arg(wallLoss_db(*found.material, usualThickness_m)[spokenBand], 0, 'f', 0)));
    table_->setItem(row, absorption, cell(tr("%1 %").arg(100.0 * found.material->absorption[spokenBand], 0, 'f', 0)));
}

void WallsDialog::choose(const std::string& surface, const MaterialId& chosen)
{
    Project next = session_.project();
    std::erase_if(next.surfaces, [&](const SurfaceUse& use) { return use.surface == surface; });
    if (!chosen.empty()) {
        next.surfaces.push_back({surface, chosen, {}});
    }
    const Surface found = materialOf(next.materials, next.surfaces, surface);
    const QString what =
        tr("Surface %1 is %2").arg(QString::fromStdString(surface), QString::fromStdString(found.material->name));
    session_.edit(std::move(next), what);
}

void WallsDialog::tell()
{
    const auto row = static_cast<std::size_t>(table_->currentRow());
    if (table_->currentRow() < 0 || row >= surfaces_.size()) {
        about_->setText(surfaces_.empty() ? tr("The level has no surfaces: nothing stands between you and the sounds.")
                                          : QString());
        return;
    }
    const Project& project = session_.project();
    const Material& shown = *materialOf(project.materials, project.surfaces, surfaces_[row].surface).material;
    BandValues hertz;
    std::copy(octaveBands_hz.begin(), octaveBands_hz.end(), hertz.begin());
    about_->setText(tr("<b>%1</b><table cellspacing='0'>%2%3%4</table>%5")
                        .arg(QString::fromStdString(shown.name).toHtmlEscaped(), bandsLine(tr("octave band, Hz"), hertz, 0),
                             bandsLine(tr("takes, dB"), wallLoss_db(shown, usualThickness_m), 0),
                             bandsLine(tr("absorbs"), shown.absorption, 2),
                             QString::fromStdString(shown.source).toHtmlEscaped()));
}

} // namespace stone
