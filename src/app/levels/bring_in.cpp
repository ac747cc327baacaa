// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/levels/bring_in.h"

#include "app/session/work_pool.h"
#include "app/theme/labels.h"
#include "app/theme/theme.h"
#include "exports/gltf_export.h"
#include "level/find_storeys.h"
#include "level/mesh_import.h"
#include "level/plan_cut.h"
#include "project/file_error.h"
#include "project/read.h"

#include <QDialogButtonBox>
#include <QFileInfo>
#include <QFormLayout>
#include <QImageReader>
#include <QLocale>
#include <QPainter>
#include <QSet>
#include <QVBoxLayout>
#include <QtConcurrent>

#include <cmath>

namespace stone
{

namespace
{

constexpr QSize previewSize(460, 250);
constexpr double doorOfStorey = 0.7; ///< a door is about so much of a storey's height

/// Between two storeys, else of all of it.
double storeyHeight_m(const Mesh& mesh, double metresPerUnit)
{
    const std::vector<Storey> storeys = findStoreys(mesh, metresPerUnit);
    const auto [low, high] = mesh.bounds();
    double least = storeys.size() > 1 ? INFINITY : (high.z - low.z) * metresPerUnit;
    for (std::size_t i = 1; i < storeys.size(); ++i) {
        least = std::min(least, storeys[i - 1].floor_m - storeys[i].floor_m);
    }
    return least;
}

LookedAt lookAt(const std::filesystem::path& file, bool zUp, bool isPicture)
{
    LookedAt looked;
    try {
        if (isPicture) {
            QImageReader reader(QString::fromStdString(file.string()));
            looked.picture = reader.read();
            looked.error = looked.picture.isNull() ? reader.errorString().toStdString() : std::string();
            return looked;
        }
        auto mesh = std::make_shared<Mesh>(importMesh(file, {1.0, zUp}));
        const std::vector<Storey> storeys = findStoreys(*mesh);
        const auto [low, high] = mesh->bounds();
        double height = (low.z + high.z) / 2.0;
        if (!storeys.empty()) {
            const auto ground = std::min_element(storeys.begin(), storeys.end(), [](const Storey& a, const Storey& b) {
                return std::abs(a.floor_m) < std::abs(b.floor_m);
            });
            constexpr double cutAt = 0.5;
            constexpr double usual_m = 3.0;
            height = ground->floor_m + cutAt * std::min(usual_m, high.z - ground->floor_m);
        }
        looked.cut = PlanCutter(*mesh).at(height).outlines;
        looked.unit = BringIn::likelyUnit(*mesh);
        looked.mesh = std::move(mesh);
        looked.emitters = emittersInGltf(file, 1.0).emitters.size();
    } catch (const FileError& error) {
        looked.error = error.what();
    }
    return looked;
}

/// The outlines from above, with a length to compare them with.
QPixmap drawn(const LookedAt& looked, double metresPerUnit, double ratio)
{
    QPixmap pixmap(previewSize * ratio);
    pixmap.setDevicePixelRatio(ratio);
    pixmap.fill(theme::paper);
    QPainter painter(&pixmap);
    painter.setRenderHint(QPainter::Antialiasing);
    const auto [low, high] = looked.mesh->bounds();
    const QSizeF room(previewSize.width() - 24.0, previewSize.height() - 48.0);
    const double scale =
        std::min(room.width() / std::max(high.x - low.x, 1e-9), room.height() / std::max(high.y - low.y, 1e-9));
    const Vec2 middle = (Vec2(low) + Vec2(high)) / 2.0;
    painter.setPen(QPen(theme::ink, 1));
    painter.setBrush(theme::line);
    for (const Outline& outline : looked.cut) {
        QPolygonF polygon;
        for (const Vec2& p : outline.points) {
            polygon << QPointF(previewSize.width() / 2.0 + (p.x - middle.x) * scale,
                               previewSize.height() / 2.0 - 10.0 - (p.y - middle.y) * scale);
        }
        outline.closed&& outline.filled ? painter.drawPolygon(polygon) : painter.drawPolyline(polygon);
    }
    const double pixelsPerMetre = scale / metresPerUnit;
    constexpr double barAtLeast_px = 50.0;
    const double bar_m = std::pow(10.0, std::ceil(std::log10(barAtLeast_px / pixelsPerMetre)));
    const double shown_m = bar_m * pixelsPerMetre > previewSize.width() / 2.0 ? bar_m / 5.0 : bar_m;
    const QPointF at(12, previewSize.height() - 12);
    painter.setPen(QPen(theme::ink, 2));
    painter.drawLine(at, at + QPointF(shown_m * pixelsPerMetre, 0));
    painter.setFont(theme::text(9));
    painter.drawText(at + QPointF(shown_m * pixelsPerMetre + 8, 4), QString("%1 m").arg(shown_m));
    return pixmap;
}

} // namespace

QString BringIn::filter()
{
    return tr("Levels and pictures (*.glb *.gltf *.obj *.png *.jpg *.jpeg *.bmp)");
}

bool BringIn::canBring(const QString& file)
{
    static const QSet<QString> endings{"glb", "gltf", "obj", "png", "jpg", "jpeg", "bmp"};
    return endings.contains(QFileInfo(file).suffix().toLower());
}

double BringIn::likelyUnit(const Mesh& mesh)
{
    constexpr double least_m = 1.6; // of what people build
    constexpr double most_m = 15.0;
    for (const double unit : {1.0, 0.01, 0.0254, 0.3048, 0.001, 10.0, 100.0}) {
        const double height_m = storeyHeight_m(mesh, unit);
        if (height_m >= least_m && height_m <= most_m) {
            return unit;
        }
    }
    return 1.0;
}

BringIn::BringIn(Session& session, const QString& file, QWidget* parent)
    : QDialog(parent), session_(session), file_(file),
      isPicture_(!QStringList{"glb", "gltf", "obj"}.contains(QFileInfo(file).suffix().toLower())), picture_(new QLabel),
      facts_(new QLabel), doubt_(new QLabel), unit_(new NumberField("m", rangeOf(&Level::metresPerUnit), 4, 0.1)),
      width_(new NumberField("m", rangeOf(&GeometryPicture::width_m), 2, 1.0)), up_(new QComboBox),
      storeys_(new QCheckBox(tr("Take its storeys"))), emitters_(new QCheckBox),
      another_(new QCheckBox(tr("As another level, beside those there are")))
{
    setObjectName("bringIn");
    setWindowTitle(tr("Bring in %1").arg(QFileInfo(file).fileName()));
    picture_->setFixedSize(previewSize);
    picture_->setAlignment(Qt::AlignCenter);
    picture_->setStyleSheet("background: " + theme::paper.name() + "; border: 1px solid " + theme::line.name() + ";");
    picture_->setText(tr("Reading…"));
    facts_->setObjectName("bringInFacts");
    facts_->setWordWrap(true);
    doubt_->setObjectName("bringInDoubt");
    doubt_->setWordWrap(true);
    doubt_->setStyleSheet("color: " + theme::cinnabar.name());
    doubt_->hide();
    unit_->setObjectName("bringInUnit");
    unit_->setToolTip(tr("0.01 where the file is in centimetres, 0.0254 in inches, 0.3048 in feet"));
    width_->setObjectName("bringInWidth");
    up_->addItems({tr("Y is up"), tr("Z is up")});
    up_->setObjectName("bringInUp");
    auto* box = new QVBoxLayout(this);
    box->addWidget(picture_);
    box->addWidget(facts_);
    box->addWidget(doubt_);
    auto* form = new QFormLayout;
    box->addLayout(form);
    if (isPicture_) {
        constexpr double usual_m = 50.0;
        width_->setValue(usual_m);
        form->addRow(tr("It is as wide as"), width_);
    } else {
        unit_->setValue(1.0);
        form->addRow(tr("One unit of it is"), unit_);
        if (file.endsWith(".obj", Qt::CaseInsensitive)) {
            form->addRow(tr("Which way is up"), up_);
        }
        form->addRow(storeys_);
        emitters_->setObjectName("bringInEmitters");
        emitters_->setToolTip(tr("Their places, cones, falloffs and levels, with the sound files that lie beside the level"));
        emitters_->hide();
        form->addRow(emitters_);
    }
    storeys_->setChecked(true);
    const Level& level = session_.level();
    another_->setChecked(false);
    another_->setVisible(!std::holds_alternative<std::monostate>(level.geometry) || !level.emitters.empty());
    another_->setObjectName("bringInAnother");
    form->addRow(another_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    bring_ = buttons->addButton(tr("Bring in"), QDialogButtonBox::AcceptRole);
    bring_->setObjectName("bringInTake");
    bring_->setEnabled(false);
    box->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, this, &BringIn::take);
    connect(unit_, &NumberField::valueEdited, this, &BringIn::measure);
    connect(up_, &QComboBox::activated, this, &BringIn::read);
    connect(&reader_, &QFutureWatcher<LookedAt>::finished, this, &BringIn::showWhatWasRead);
    read();
}

BringIn::~BringIn()
{
    reader_.waitForFinished();
}

void BringIn::read()
{
    bring_->setEnabled(false);
    reader_.setFuture(QtConcurrent::run(&workPool(), lookAt, std::filesystem::path(file_.toStdString()),
                                        up_->currentIndex() == 1, isPicture_));
}

void BringIn::showWhatWasRead()
{
    looked_ = reader_.result();
    bring_->setEnabled(looked_.error.empty());
    if (!looked_.error.empty()) {
        picture_->setText(tr("It cannot be shown."));
        facts_->setText(QString::fromStdString(looked_.error));
        return;
    }
    if (isPicture_) {
        picture_->setPixmap(
            QPixmap::fromImage(looked_.picture.scaled(previewSize, Qt::KeepAspectRatio, Qt::SmoothTransformation)));
        facts_->setText(tr("A picture of %1 by %2 pixels, to lay under the sheet. Measure something in it whose length you "
                           "know, to find its width.")
                            .arg(looked_.picture.width())
                            .arg(looked_.picture.height()));
        return;
    }
    unit_->setValue(looked_.unit);
    emitters_->setVisible(looked_.emitters > 0);
    emitters_->setChecked(looked_.emitters > 0);
    emitters_->setText(tr("Take over the %n emitters that come with it", nullptr, static_cast<int>(looked_.emitters)));
    measure();
}

void BringIn::measure()
{
    if (looked_.mesh == nullptr) {
        return;
    }
    const Mesh& mesh = *looked_.mesh;
    picture_->setPixmap(drawn(looked_, unit(), devicePixelRatioF()));
    const auto [low, high] = mesh.bounds();
    const std::vector<Storey> storeys = findStoreys(mesh, unit());
    const auto metres = [this](double units) { return theme::metres(units * unit()); };
    facts_->setText(
        tr("<b>%1 by %2, %3 high</b><br>%4 triangles, %n materials, %5", nullptr, static_cast<int>(mesh.materials.size()))
            .arg(metres(high.x - low.x), metres(high.y - low.y), metres(high.z - low.z),
                 QLocale(QLocale::English).toString(static_cast<qulonglong>(mesh.triangles.size())),
                 storeys.empty() ? tr("no floor to stand on") : tr("%n storeys", nullptr, static_cast<int>(storeys.size()))));
    doubt_->setVisible(looked_.unit != unit());
    doubt_->setText(tr("A door in it would be about %1 high. Should one unit be %2 m?")
                        .arg(theme::metres(doorOfStorey * storeyHeight_m(mesh, unit())))
                        .arg(looked_.unit));
    storeys_->setEnabled(!storeys.empty());
}

/// With what comes with the file; sounds that lie beside it are brought into the project.
Project BringIn::withEmitters(Project project, const LevelId& level)
{
    const std::filesystem::path file(file_.toStdString());
    return withEmittersOf(std::move(project), level, emittersInGltf(file, unit()), [&](const std::string& name) {
        const std::filesystem::path path = resolveInside(file.parent_path(), name);
        std::error_code error;
        return !path.empty() && std::filesystem::is_regular_file(path, error)
                   ? session_.takeIn(QString::fromStdString(path.string()), "sounds").toStdString()
                   : std::string();
    });
}

void BringIn::take()
{
    try {
        const std::string inside = session_.takeIn(file_, "level").toStdString();
        Project next = session_.project();
        Level level = session_.level();
        const bool fresh = another_->isChecked();
        if (fresh) {
            level = *blankProject().levels[0];
            level.name = QFileInfo(file_).completeBaseName().toStdString();
            level.id = next.levels.freshId(level.name);
        }
        if (isPicture_) {
            level.geometry = GeometryPicture{.file = inside, .width_m = width_->value(), .extras = {}};
        } else {
            level.geometry = GeometryFile{.file = inside, .up = up_->currentIndex() == 1 ? UpAxis::z : UpAxis::y, .extras = {}};
            level.metresPerUnit = unit();
            std::vector<Storey> storeys = findStoreys(*looked_.mesh, unit());
            if (storeys_->isChecked() && !storeys.empty()) {
                level.storeys = std::move(storeys);
            }
            // Who walks about there already knows where to begin.
            const auto start = standingPlace(*looked_.mesh, unit());
            if (start && level.emitters.empty() && level.character.start == Vec3{0.0}) {
                level.character.start = *start;
            }
        }
        const LevelId id = level.id;
        next.levels.put(std::move(level));
        if (emitters_->isChecked() && looked_.emitters > 0) {
            next = withEmitters(std::move(next), id);
        }
        session_.edit(std::move(next), tr("Bring in %1").arg(QFileInfo(file_).fileName()));
        session_.showLevel(id);
        accept();
    } catch (const FileError& error) {
        doubt_->setText(QString::fromUtf8(error.what()));
        doubt_->show();
    }
}

} // namespace stone
