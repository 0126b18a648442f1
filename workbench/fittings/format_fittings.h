// SPDX-License-Identifier: MIT
#pragma once
// FormatFittings: the format of columns: the pattern with usual ones to choose from, words before and after, what an
// empty value shows, and a live sample on the records that try it hardest. A wrong pattern is said with its place, and
// the last good one stays in the design.

#include "workbench/fittings/fitting_section.h"
#include "workbench/fittings/fittings.h"

class QComboBox;
class QGridLayout;

namespace jollyrow {

class FormatFittings final : public QWidget {
    Q_OBJECT
  public:
    explicit FormatFittings(QWidget* parent);
    void setContent(const FittingsContent& content);

  Q_SIGNALS:
    void chosen(const jollyrow::FormatSpec& format);

  private:
    void addSamples(Section& section);
    void addAround(Section& section);
    void typed(const QString& pattern);
    void chooseStyle(int index);
    void offerStyles(Type type);
    void send();
    void showSamples();
    void showProblem(const Error& error, const std::string& pattern);

    FittingsContent content_;
    FormatSpec spec_;
    Type type_ = Type::Text;
    bool filling_ = false;
    QComboBox* styles_;
    QLineEdit* pattern_;
    QLabel* problem_;
    QComboBox* unit_;
    QLineEdit* prefix_;
    QLineEdit* suffix_;
    QLineEdit* empty_;
    QGridLayout* samples_;
    std::vector<std::pair<QLabel*, QLabel*>> sampleRows_;
};

}  // namespace jollyrow
