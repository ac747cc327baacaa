// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/walls/material_dialog.h"

#include "acoustics/wall_loss.h"
#include "app/theme/labels.h"
#include "app/walls/usual_wall.h"
#include "app/widgets/typed_dialog.h"
#include "dsp/octave_bands.h"
#include "project/range.h"
#include "project/references.h"

#include <QDialogButtonBox>
#include <QFormLayout>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QMenu>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include <algorithm>

namespace stone
{

namespace
{

QString inWords(const std::vector<std::string>& words)
{
    QStringList list;
    for (const std::string& word : words) {
        list << QString::fromStdString(word);
    }
    return list.join(QStringLiteral(", "));
}

} // namespace

MaterialDialog::MaterialDialog(Session& session, QWidget* parent)
    : QDialog(parent), session_(session), list_(new QListWidget), remove_(new QPushButton(tr("Delete")))
{
    fields_ = makeFields();
    setObjectName("materialDialog");
    setWindowTitle(tr("Own materials"));
    resize(760, 420);
    list_->setObjectName("materialList");
    list_->setAccessibleName(tr("Own materials"));
    list_->setMaximumWidth(190);
    auto* add = new QPushButton(tr("New, like…"));
    add->setObjectName("newMaterial");
    auto* like = new QMenu(add);
    like->setObjectName("newMaterialLike");
    for (const Material& known : materialLibrary()) {
        connect(like->addAction(QString::fromStdString(known.name)), &QAction::triggered, this,
                [this, &known] { this->add(known); });
    }
    add->setMenu(like);
    remove_->setObjectName("deleteMaterial");
    auto* actions = new QHBoxLayout;
    actions->addWidget(add);
    actions->addWidget(remove_);
    auto* left = new QVBoxLayout;
    left->addWidget(list_, 1);
    left->addLayout(actions);
    auto* halves = new QHBoxLayout;
    halves->addLayout(left);
    halves->addWidget(fields_, 1);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* box = new QVBoxLayout(this);
    auto* about =
        theme::explained(tr("A surface of the level whose name has one of the words is of that material, unless another was "
                            "chosen for it by hand. Yours come before those that Stone Echo brings."));
    box->addWidget(about);
    box->addLayout(halves, 1);
    box->addWidget(buttons);
    enterEndsTyping(this);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(remove_, &QPushButton::clicked, this, &MaterialDialog::remove);
    connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
        const auto& own = session_.project().materials;
        chosen_ = row >= 0 && static_cast<std::size_t>(row) < own.size() ? own[static_cast<std::size_t>(row)].id : MaterialId{};
        refresh();
    });
    connect(&session_, &Session::documentChanged, this, &MaterialDialog::refresh);
    refresh();
    if (list_->count() > 0) {
        list_->setCurrentRow(0);
    }
}

QWidget* MaterialDialog::makeFields()
{
    auto* panel = new QWidget;
    auto* form = new QFormLayout;
    const auto line = [&](const char* name, const QString& label, const QString& help, const QString& what, auto set) {
        auto* field = new QLineEdit;
        field->setObjectName(name);
        field->setToolTip(help);
        form->addRow(label, field);
        connect(field, &QLineEdit::editingFinished, this, [this, field, what, set] {
            if (field->isModified()) {
                edit(what.arg(field->text().trimmed()), {}, [&](Material& m) { set(m, field->text().trimmed()); });
            }
        });
        return field;
    };
    const auto number = [&](const char* name, const QString& label, const QString& unit, const QString& help,
                            double Material::*member) {
        auto* field = new NumberField(unit, rangeOf(member), 1, 1.0);
        field->setObjectName(name);
        field->setToolTip(help);
        form->addRow(label, field);
        connect(field, &NumberField::valueEdited, this, [this, field, label, member](double value) {
            edit(tr("%1 %2").arg(label).arg(value), field->objectName(), [&](Material& m) { m.*member = value; });
        });
        connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
        return field;
    };
    name_ = line("materialName", tr("Name"), {}, tr("is called %1"), [](Material& m, const QString& text) {
        if (!text.isEmpty()) {
            m.name = text.toStdString();
        }
    });
    words_ = line("materialWords", tr("Surfaces with"),
                  tr("Words, with commas between: whatever surface has one of them in its name is of this material"),
                  tr("for surfaces with: %1"), [](Material& m, const QString& text) {
                      m.words.clear();
                      for (const QString& word : text.split(',', Qt::SkipEmptyParts)) {
                          m.words.push_back(word.trimmed().toLower().toStdString());
                      }
                  });
    source_ = line("materialSource", tr("Numbers from"), tr("Where its numbers come from, for whoever wonders later"),
                   tr("numbers from %1"), [](Material& m, const QString& text) { m.source = text.toStdString(); });
    sheet_ = number("materialSheet", tr("A wall of it weighs"), QStringLiteral("kg/m²"),
                    tr("However thick it is drawn; by its mass follows what it takes from sound that goes through"),
                    &Material::density_kg_m2);
    solid_ = number("materialSolid", tr("or it weighs"), QStringLiteral("kg/m³"),
                    tr("Above 0: the wall weighs this times the thickness that the level has there"), &Material::density_kg_m3);
    byMass_ = new QCheckBox(tr("what goes through follows from the mass"));
    byMass_->setObjectName("materialByMass");
    form->addRow(QString(), byMass_);
    connect(byMass_, &QCheckBox::clicked, this, [this](bool on) {
        edit(on ? tr("loss by its mass") : tr("loss by bands"), {},
             [&](Material& m) { m.loss_db = on ? std::nullopt : std::optional<BandValues>(wallLoss_db(m, usualThickness_m)); });
    });

    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(3);
    grid->addWidget(theme::caption(tr("octave, Hz")), 0, 0);
    grid->addWidget(theme::caption(tr("absorbs, %")), 1, 0);
    grid->addWidget(theme::caption(tr("takes, dB")), 2, 0);
    for (std::size_t band = 0; band < absorption_.size(); ++band) {
        const int column = static_cast<int>(band) + 1;
        const QString hertz = QString::number(octaveBands_hz[band], 'f', 0);
        auto* heading = theme::caption(hertz);
        heading->setAlignment(Qt::AlignRight);
        grid->addWidget(heading, 0, column);
        absorption_[band] = new NumberField("", 100.0 * ranges::share.least, 100.0 * ranges::share.most, 0, 5.0);
        absorption_[band]->setAccessibleName(tr("Absorbs at %1 Hz, percent").arg(hertz));
        absorption_[band]->setObjectName(QString("absorption%1").arg(band));
        loss_[band] = new NumberField("", ranges::wallLoss_db, 0, 1.0);
        loss_[band]->setAccessibleName(tr("Takes at %1 Hz, decibels").arg(hertz));
        loss_[band]->setObjectName(QString("loss%1").arg(band));
        connect(absorption_[band], &NumberField::valueEdited, this, [this, band, hertz](double value) {
            edit(tr("absorbs %1 % at %2 Hz").arg(value).arg(hertz), QString("absorption %1").arg(band),
                 [&](Material& m) { m.absorption[band] = value / 100.0; });
        });
        connect(loss_[band], &NumberField::valueEdited, this, [this, band, hertz](double value) {
            edit(tr("takes %1 dB at %2 Hz").arg(value).arg(hertz), QString("loss %1").arg(band), [&](Material& m) {
                if (m.loss_db) {
                    (*m.loss_db)[band] = value;
                }
            });
        });
        for (NumberField* field : {absorption_[band], loss_[band]}) {
            field->setMinimumWidth(48);
            connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
            grid->addWidget(field, field == loss_[band] ? 2 : 1, column);
        }
    }
    users_ = theme::caption({});
    users_->setObjectName("materialUsers");
    users_->setWordWrap(true);
    auto* box = new QVBoxLayout(panel);
    box->setContentsMargins(6, 0, 0, 0);
    box->addLayout(form);
    box->addLayout(grid);
    box->addWidget(users_);
    box->addStretch();
    return panel;
}

const Material* MaterialDialog::current() const
{
    const auto& own = session_.project().materials;
    const auto found = std::find_if(own.begin(), own.end(), [&](const Material& m) { return m.id == chosen_; });
    return found == own.end() ? nullptr : &*found;
}

void MaterialDialog::add(const Material& like)
{
    Project next = session_.project();
    Material material = like;
    const auto named = [&](const std::string& name) {
        return std::any_of(next.materials.begin(), next.materials.end(), [&](const Material& m) { return m.name == name; });
    };
    const std::string own = tr("own %1").arg(QString::fromStdString(like.name)).toStdString();
    material.name = own;
    for (int number = 2; named(material.name); ++number) {
        material.name = own + ' ' + std::to_string(number);
    }
    // A material of the project with the id of another would stand in for it.
    for (int number = 1; findMaterial(next.materials, material.id) != nullptr; ++number) {
        material.id.text = "own-" + like.id.text + (number > 1 ? '-' + std::to_string(number) : std::string());
    }
    material.words.clear();
    chosen_ = material.id;
    const QString name = QString::fromStdString(material.name);
    next.materials.push_back(std::move(material));
    session_.edit(std::move(next), tr("New material %1").arg(name));
    name_->setFocus();
    name_->selectAll();
}

void MaterialDialog::remove()
{
    if (const Material* material = current()) {
        const QString name = QString::fromStdString(material->name);
        Project next = session_.project();
        std::erase_if(next.materials, [&](const Material& m) { return m.id == chosen_; });
        std::erase_if(next.surfaces, [&](const SurfaceUse& use) { return use.material == chosen_; });
        session_.edit(std::move(next), tr("Delete material %1").arg(name));
    }
}

void MaterialDialog::edit(const QString& what, const QString& gesture, const std::function<void(Material&)>& change)
{
    Project next = session_.project();
    for (Material& material : next.materials) {
        if (material.id == chosen_) {
            const QString name = QString::fromStdString(material.name);
            change(material);
            session_.edit(std::move(next), tr("Material %1: %2").arg(name, what), gesture);
            return;
        }
    }
}

void MaterialDialog::refresh()
{
    const auto& own = session_.project().materials;
    if (current() == nullptr) {
        chosen_ = own.empty() ? MaterialId{} : own.front().id;
    }
    const Material* material = current();
    {
        const QSignalBlocker quiet(list_);
        list_->clear();
        for (const Material& each : own) {
            list_->addItem(QString::fromStdString(each.name));
            if (&each == material) {
                list_->setCurrentRow(list_->count() - 1);
            }
        }
    }
    fields_->setEnabled(material != nullptr);
    remove_->setEnabled(material != nullptr);
    if (material == nullptr) {
        users_->setText(tr("There are none of your own yet. Begin with one that is nearest to what you need."));
        return;
    }
    const auto show = [](QLineEdit* field, const QString& text) {
        if (!field->hasFocus() || !field->isModified()) {
            field->setText(text);
        }
    };
    show(name_, QString::fromStdString(material->name));
    show(words_, inWords(material->words));
    show(source_, QString::fromStdString(material->source));
    sheet_->present(material->density_kg_m2);
    solid_->present(material->density_kg_m3);
    byMass_->setChecked(!material->loss_db);
    const Bands taken = wallLoss_db(*material, usualThickness_m);
    for (std::size_t band = 0; band < absorption_.size(); ++band) {
        absorption_[band]->present(100.0 * material->absorption[band]);
        loss_[band]->present(taken[band]);
        loss_[band]->setEnabled(material->loss_db.has_value());
    }
    QStringList users;
    for (const std::string& user : whoUses(session_.project(), material->id)) {
        users << QString::fromStdString(user);
    }
    users_->setText(users.isEmpty() ? tr("No surface was given it by hand.") : tr("Given to: %1").arg(users.join(", ")));
}

} // namespace stone
