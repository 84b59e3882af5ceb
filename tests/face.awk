# A public function says which errors it throws, or is noexcept, or the comment of its class or the head of its header
# says that none does.
function ends() {
  if (!calm && said !~ /noexcept|= *default|= *delete|constexpr|operator==/ && doc said !~ /[Tt]hrow/) {
    sub(/^ +/, "", said); printf "%s:%d: which errors? %s\n", FILENAME, at, said; bad = 1
  }
  said = ""
}
BEGIN { none = "[Nn]one of these throws|[Nn]one throws|where it says so" }
FNR == 1 { doc = ""; said = ""; hidden = inner = 0; head = 1; calm = 0; calm_class = 0 }
/^#pragma once/ { head = 0 }
head { if ($0 ~ none) calm = 1; next }
/^namespace (truecurve::)?detail/ { inner = 1 }
/^}  \/\/ namespace (truecurve::)?detail/ { inner = 0 }
/^ (private|protected):/ { hidden = 1 }
/^ public:/ { hidden = 0 }
/^};/ { hidden = 0; if (calm_class) calm = calm_class = 0 }
hidden || inner { next }
said != "" { said = said " " $0; if ($0 ~ /[;{}]/) ends(); next }
/^ *\/\/\/ / { if (!above) doc = ""; doc = doc $0; above = 1; next }
{ above = 0 }
/^(class|struct) .*{$/ { if (!calm && doc ~ none) calm = calm_class = 1 }
/^ *$/ { doc = ""; next }
/^ *(template|friend)/ { next }
/^ *(\[\[nodiscard\]\]|void [a-z_]+\(|virtual |explicit |inline )/ || /^ *[A-Z][A-Za-z]*\(/ { said = $0; at = FNR; if ($0 ~ /[;{}]/) ends() }
END { exit bad }
