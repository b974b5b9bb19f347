# Dust Coat: `make demo` starts it, `make test` tests everything, `make bench [ONLY=name]` measures.
.DELETE_ON_ERROR:
.PHONY: demo test bench types front front-check screenshots

# Embedded into the binary by cargo; built first, and only when something of it has changed.
FRONT := $(shell find web/src web/public web/index.html web/vite.config.ts -type f)
front: web/dist/index.html

web/dist/index.html: web/node_modules/.package-lock.json $(FRONT)
	cd web && npm run --silent build

web/node_modules/.package-lock.json: web/package.json web/package-lock.json
	cd web && npm ci --no-audit --no-fund

# Fresh demo data in a temporary folder; prints the URL. DATA=folder keeps it. ADDR=host:port serves elsewhere.
demo: front
	cargo run --release --locked -p dustcoat -- demo $(if $(DATA),--data $(DATA)) $(if $(ADDR),--addr $(ADDR))

front-check: web/node_modules/.package-lock.json
	cd web && npm run --silent check && npm run --silent lint && npm run --silent formatted

# Everything, and at the end what took how long.
test:
	@mkdir -p target; : > target/times; \
	timed() { began=$$(date +%s); "$$@" || exit 1; printf '%6d s  %s\n' $$(($$(date +%s) - began)) "$$*" >> target/times; }; \
	timed $(MAKE) --no-print-directory browser front-check front; \
	timed cargo fmt --all --check; \
	timed cargo clippy --locked --all-targets -- -D warnings; \
	timed cargo test --locked --no-run; \
	timed cargo test --locked; \
	echo "What took how long:"; cat target/times

# Debian's Chromium and ChromeDriver, with Mesa for WebGL without a graphics processor.
.PHONY: browser
browser:
	@if ! command -v chromedriver >/dev/null || ! ls /usr/lib/*/libEGL.so.1 >/dev/null 2>&1 || ! ls /usr/lib/*/dri >/dev/null 2>&1; then \
		echo "Installing Chromium, ChromeDriver and Mesa from Debian"; \
		SUDO=$$( [ "$$(id -u)" = 0 ] || echo sudo ); \
		$$SUDO apt-get update -qq && DEBIAN_FRONTEND=noninteractive $$SUDO apt-get install -y -qq --no-install-recommends chromium chromium-driver libegl1 libgl1-mesa-dri; \
	fi

# Meshes of other makers, of three collections that Debian and npm carry: which are read, and what is said of the others. Not a part of `make test`.
CORPUS := target/corpus
.PHONY: corpus
corpus: front $(CORPUS)/fetched
	cargo build --locked
	@find $(CORPUS)/meshes -type f | grep -iE '\.(glb|gltf|obj|ply|stl|usda|usdc|usdz)$$' | sort | while read -r mesh; do \
		said=$$(timeout 120 target/debug/dustcoat inspect "$$mesh" --json 2>&1 >/dev/null); \
		if [ -z "$$said" ]; then echo "read $$mesh"; else echo "refused $$mesh: $$said"; fi; \
	done > $(CORPUS)/result; grep '^refused' $(CORPUS)/result; cut -d/ -f1-4 $(CORPUS)/result | cut -d: -f1 | sort | uniq -c

$(CORPUS)/fetched:
	@mkdir -p $(CORPUS)/meshes && cd $(CORPUS) && apt-get download -qq assimp-testmodels libcgal-demo && npm pack --silent @webxr-input-profiles/assets@1.0.20 > /dev/null
	@cd $(CORPUS) && dpkg -x assimp-testmodels*.deb meshes/assimp-testmodels && dpkg -x libcgal-demo*.deb cgal \
		&& mkdir -p meshes/libcgal-demo meshes/webxr-input-profiles && tar xzf cgal/usr/share/doc/libcgal-dev/data.tar.gz -C meshes/libcgal-demo \
		&& tar xzf webxr-input-profiles-assets-*.tgz -C meshes/webxr-input-profiles && touch fetched

# What is handed off, read back by other implementations: the Khronos validator of glTF (npm), MaterialX, OpenEXR and USD (PyPI). Not a part of `make test`.
VALIDATE := target/validate
.PHONY: validate
validate: front $(VALIDATE)/tools
	cargo build --locked
	@rm -rf $(VALIDATE)/files $(VALIDATE)/demo; target/debug/dustcoat demo-files --out $(VALIDATE)/demo > /dev/null
	@set -e; for piece in gate-valve harbour-lamp; do \
		export="target/debug/dustcoat export $(VALIDATE)/demo/$$piece.dustcoat --size 256"; \
		$$export --format png,exr,materialx,usd,gltf,glb --out $(VALIDATE)/files/$$piece > /dev/null; \
		$$export --layout reflectance --format png,exr,materialx,usd --out $(VALIDATE)/files/$$piece-reflectance > /dev/null; \
		$$export --layout packed --format png,exr,materialx,usd --out $(VALIDATE)/files/$$piece-packed > /dev/null; \
	done
	@cp validate/gltf.mjs $(VALIDATE)/tools/ && node $(VALIDATE)/tools/gltf.mjs $(VALIDATE)/files
	@$(VALIDATE)/tools/python/bin/python validate/check.py $(VALIDATE)/files

$(VALIDATE)/tools: validate/package.json
	@mkdir -p $@ && cp validate/package.json $@/ && cd $@ && npm install --silent --no-audit --no-fund
	@python3 -m venv $@/python && $@/python/bin/pip install -q materialx==1.39.5 openexr==3.5.3 usd-core==26.11 numpy && touch $@

# Tasks as an array of Slurm (Debian's) on a cluster of this machine, one of them killed, compared with a plain run. Not a part of `make test`.
.PHONY: farm
farm: front
	@if ! command -v slurmctld >/dev/null || ! command -v munged >/dev/null; then \
		echo "Installing Slurm and Munge from Debian"; \
		SUDO=$$( [ "$$(id -u)" = 0 ] || echo sudo ); \
		$$SUDO apt-get update -qq && DEBIAN_FRONTEND=noninteractive $$SUDO apt-get install -y -qq --no-install-recommends slurm-wlm munge; \
	fi
	cargo build --locked
	farm/run.sh target/debug/dustcoat target/farm

# The front end's types, generated from the Rust types.
types:
	DUSTCOAT_WRITE_TYPES=1 cargo test --locked -q --test server types

# Speed against named libraries, a JSON line each. Needs Debian's libembree-dev, which is installed where missing.
bench: browser front
	@if ! ls /usr/include/embree3 >/dev/null 2>&1; then \
		SUDO=$$( [ "$$(id -u)" = 0 ] || echo sudo ); \
		$$SUDO apt-get update -qq && DEBIAN_FRONTEND=noninteractive $$SUDO apt-get install -y -qq --no-install-recommends libembree-dev; \
	fi
	@cargo run --release --locked -q -p dustcoat-bench -- $(ONLY)

# Every reader of foreign bytes, fuzzed for SECONDS each: ONLY=name takes one of obj, gltf, ply, stl, usd, folder, picture.
# Begins with the small files of `make corpus`, where that was run. Wants nightly Rust and cargo-fuzz.
SECONDS ?= 60
.PHONY: fuzz
fuzz:
	@for target in $(or $(ONLY),obj gltf ply stl usd folder picture); do \
		mkdir -p fuzz/corpus/$$target; \
		case $$target in gltf) kinds='gl(b|tf)';; usd) kinds='usd[ac]';; *) kinds=$$target;; esac; \
		[ ! -d $(CORPUS)/meshes ] || find $(CORPUS)/meshes -type f -size -300k | grep -iE "\.$$kinds\$$" | while read -r mesh; do cp "$$mesh" "fuzz/corpus/$$target/$$(echo "$$mesh" | md5sum | cut -c1-12)"; done; \
		cargo +nightly fuzz run $$target fuzz/corpus/$$target fuzz/seeds/$$target -- -max_total_time=$(SECONDS) -rss_limit_mb=4096 -timeout=60 || exit 1; \
	done

# docs/gallery.md and its stills; some minutes.
.PHONY: gallery
gallery:
	cargo run --release --locked -p dustcoat-demo --example gallery -- docs/gallery

# docs/screenshots, from the demo data, in a headless browser.
screenshots: browser front
	cargo run --locked --example screenshots -- docs/screenshots
