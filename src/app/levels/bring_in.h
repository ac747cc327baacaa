// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"
#include "app/widgets/number_field.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QFutureWatcher>
#include <QLabel>
#include <QPushButton>

namespace stone
{

/// A level's file as it was read to be looked at, at one metre a unit.
struct LookedAt {
    std::shared_ptr<const Mesh> mesh;
    std::vector<Outline> cut; ///< through its largest floor
    std::size_t emitters = 0; ///< that the file has
    double unit = 1.0;        ///< that it most likely has; see BringIn::likelyUnit()
    QImage picture;
    std::string error;
};

/// What a file would be as a level, before it is one: its size, storeys, triangles and materials, how it looks from above, and
/// how large one unit of it is.
class BringIn : public QDialog
{
    Q_OBJECT

public:
    BringIn(Session& session, const QString& file, QWidget* parent = nullptr);
    ~BringIn() override;

    /// Files that can be brought in, for a file dialog.
    static QString filter();
    static bool canBring(const QString& file);

    /// The unit, metres, at which its storeys, else all of it, are as high as people build: 1 where they are so already, or
    /// never.
    static double likelyUnit(const Mesh& mesh);

private:
    void read();
    void showWhatWasRead();
    /// Redraws and rewords for the unit that is chosen.
    void measure();
    void take();
    Project withEmitters(Project project, const LevelId& level);
    double unit() const { return unit_->value(); }

    Session& session_;
    QString file_;
    bool isPicture_;
    QFutureWatcher<LookedAt> reader_;
    LookedAt looked_;
    QLabel* picture_;
    QLabel* facts_;
    QLabel* doubt_;
    NumberField* unit_;
    NumberField* width_;
    QComboBox* up_;
    QCheckBox* storeys_;
    QCheckBox* emitters_; ///< that the file has are taken over
    QCheckBox* another_;
    QPushButton* bring_;
};

} // namespace stone
