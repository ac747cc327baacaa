#include "app/shell/level_dialog.h"

#include "app/theme/theme.h"
#include "project/range.h"

#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>

#include <filesystem>

namespace stone
{

namespace
{
enum Kind { grid, file, picture };
}

LevelDialog::LevelDialog(Session& session, QWidget* parent)
    : QDialog(parent), session_(session), name_(new QLineEdit), kind_(new QComboBox), file_(new QLabel),
      choose_(new QPushButton(tr("Choose…"))), up_(new QComboBox),
      unit_(new NumberField("m", rangeOf(&Level::metresPerUnit), 4, 0.1)),
      width_(new NumberField("m", rangeOf(&GeometryPicture::width_m), 2, 1.0)),
      speed_(new NumberField("m/s", rangeOf(&Character::speed_m_s), 2, 0.1)),
      ears_(new NumberField("m", rangeOf(&Character::earsHeight_m), 2, 0.05)),
      echoes_(new NumberField("dB", rangeOf(&Outside::echoes_db), 1, 1.0))
{
    setWindowTitle(tr("Level"));
    setObjectName("levelDialog");
    const Level& level = session_.level();
    name_->setText(QString::fromStdString(level.name));
    kind_->addItems({tr("an empty grid"), tr("geometry from a file (glTF or OBJ)"), tr("a picture laid under it")});
    up_->addItems({tr("Y is up"), tr("Z is up")});
    unit_->setValue(level.metresPerUnit);
    unit_->setToolTip(tr("How many metres one unit of the level's file is"));
    speed_->setValue(level.character.speed_m_s);
    ears_->setValue(level.character.earsHeight_m);
    echoes_->setObjectName("outsideEchoes");
    echoes_->setValue(level.outside.echoes_db);
    echoes_->setToolTip(
        tr("What lies in no room: how strongly the level's walls throw single echoes back. 0: as they are, -96: not at all"));
    kind_->setCurrentIndex(static_cast<int>(level.geometry.index()));
    if (const auto* geometry = std::get_if<GeometryFile>(&level.geometry)) {
        chosen_ = QString::fromStdString(geometry->file);
        up_->setCurrentIndex(geometry->up == UpAxis::z ? 1 : 0);
    } else if (const auto* laid = std::get_if<GeometryPicture>(&level.geometry)) {
        chosen_ = QString::fromStdString(laid->file);
        width_->setValue(laid->width_m);
    } else {
        width_->setValue(50.0);
    }

    auto* fileRow = new QHBoxLayout;
    fileRow->addWidget(file_, 1);
    fileRow->addWidget(choose_);
    auto* form = new QFormLayout(this);
    form->addRow(tr("Name"), name_);
    form->addRow(tr("On the sheet"), kind_);
    form->addRow(tr("File"), fileRow);
    form->addRow(tr("Which way is up (OBJ)"), up_);
    form->addRow(tr("One unit is"), unit_);
    form->addRow(tr("The picture is as wide as"), width_);
    form->addRow(tr("Walking speed"), speed_);
    form->addRow(tr("Ears above the feet"), ears_);
    form->addRow(tr("Echoes outside"), echoes_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    form->addRow(buttons);
    connect(choose_, &QPushButton::clicked, this, &LevelDialog::chooseFile);
    connect(kind_, &QComboBox::activated, this, [this] {
        chosen_.clear();
        refreshKind();
    });
    connect(buttons, &QDialogButtonBox::accepted, this, [this] {
        apply();
        accept();
    });
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    refreshKind();
}

void LevelDialog::refreshKind()
{
    const int kind = kind_->currentIndex();
    file_->setText(chosen_.isEmpty()
                       ? tr("none chosen")
                       : QString::fromStdString(std::filesystem::path(chosen_.toStdString()).filename().string()));
    file_->setEnabled(kind != grid);
    choose_->setEnabled(kind != grid);
    up_->setEnabled(kind == file && chosen_.endsWith(".obj", Qt::CaseInsensitive));
    width_->setEnabled(kind == picture);
}

void LevelDialog::chooseFile()
{
    const QString filter =
        kind_->currentIndex() == picture ? tr("Pictures (*.png *.jpg *.jpeg *.bmp)") : tr("Levels (*.gltf *.glb *.obj)");
    const QString picked = QFileDialog::getOpenFileName(this, tr("Choose what lies on the sheet"),
                                                        QString::fromStdString(session_.folder().string()), filter);
    if (picked.isEmpty()) {
        return;
    }
    try {
        chosen_ = session_.takeIn(picked, "level");
    } catch (const FileError& error) {
        emit session_.failed(error.what());
    }
    refreshKind();
}

Geometry LevelDialog::geometryFrom(const Geometry& before) const
{
    if (kind_->currentIndex() == grid || chosen_.isEmpty()) {
        return {};
    }
    // What the dialog does not show stays as it was.
    if (kind_->currentIndex() == file) {
        const auto* known = std::get_if<GeometryFile>(&before);
        GeometryFile geometry = known != nullptr ? *known : GeometryFile{};
        geometry.file = chosen_.toStdString();
        geometry.up = up_->currentIndex() == 1 ? UpAxis::z : UpAxis::y;
        return geometry;
    }
    const auto* known = std::get_if<GeometryPicture>(&before);
    GeometryPicture laid = known != nullptr ? *known : GeometryPicture{};
    laid.file = chosen_.toStdString();
    laid.width_m = width_->value();
    return laid;
}

void LevelDialog::apply()
{
    session_.edit(withLevel(session_.project(), session_.levelId(),
                            [this](Level& level) {
                                level.name = name_->text().toStdString();
                                level.metresPerUnit = unit_->value();
                                level.character.speed_m_s = speed_->value();
                                level.character.earsHeight_m = ears_->value();
                                level.outside.echoes_db = echoes_->value();
                                level.geometry = geometryFrom(level.geometry);
                            }),
                  tr("Change the level's settings"));
}

} // namespace stone
