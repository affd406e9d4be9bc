#pragma once
// The user guide and the reference of operators as they are shipped: pages of text with headings, which can be searched.
#include <QtCore/QString>

#include <vector>

namespace seedloom::app {

struct HelpPage {
    QString id;     ///< "stage", "operator:bend"
    QString title;  ///< its first heading
    QString text;   ///< Markdown, without pictures that are not shipped
};

struct HelpHit {
    QString page, title, heading;  ///< heading: empty for the page as a whole
};

class HelpBook {
public:
    /// Read once.
    static const HelpBook& common();

    /// Chapters of the guide in their order, then what else is shipped, then one page for each operator.
    const std::vector<HelpPage>& pages() const { return pages_; }
    /// nullptr where there is none.
    const HelpPage* page(const QString& id) const;
    /// Where all the words occur; titles and headings that hold them come first.
    std::vector<HelpHit> find(const QString& words) const;
    /// The page that a link leads to, as "stage.md", "../operators.md#x"; empty where it leads elsewhere.
    QString target(const QString& link) const;

private:
    HelpBook();
    void addFile(const QString& file);
    void addOperators();
    std::vector<HelpPage> pages_;
};

}  // namespace seedloom::app
