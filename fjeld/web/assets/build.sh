#!/bin/sh
# Builds the style sheet and copies the scripts and fonts that ship with the application.
set -eu
cd "$(dirname "$0")/../../.."
PYTHON=${PYTHON:-$PWD/.venv/bin/python}
static=fjeld/web/static
"$PYTHON" -m fjeld.graphics.style > fjeld/web/assets/drawings.css
npx --no-install tailwindcss --minify -i fjeld/web/assets/fjeld.css -o "$static/styles/fjeld.css" 2>/dev/null
cp node_modules/htmx.org/dist/htmx.min.js "$static/scripts/htmx.js"
cp node_modules/@alpinejs/csp/dist/cdn.min.js "$static/scripts/alpine.js"
cp node_modules/@fontsource/national-park/files/national-park-latin-600-normal.woff2 "$static/fonts/national-park-600.woff2"
"$PYTHON" fjeld/web/assets/fonts.py node_modules "$static/fonts" fjeld/graphics/fonts
cp node_modules/axe-core/axe.min.js tests/browser/axe.js
# No source map is shipped, so nothing may ask for one.
sed -i '/^\/\/# sourceMappingURL=/d' "$static/scripts/htmx.js" "$static/scripts/alpine.js"
# The licences of what is shipped travel with it.
licences=fjeld/licences
mkdir -p "$licences"
for package in htmx.org @alpinejs/csp alpinejs tailwindcss @fontsource/national-park @fontsource/atkinson-hyperlegible-next @fontsource/noto-sans @fontsource/noto-sans-math; do
  for file in LICENSE LICENSE.md LICENSE.txt; do
    if [ -f "node_modules/$package/$file" ]; then
      cp "node_modules/$package/$file" "$licences/$(echo "$package" | tr '/@' '-_' | sed 's/^_//').txt"
    fi
  done
done
