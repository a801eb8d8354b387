# make demo | test | test-linux | test-spreadsheet | examples | check | prove | bench | docs | screenshots | install | clean
# make firmware-files PART="tmp102 sht31"
#
# Every target installs the Debian packages that it misses (as root, or with sudo) and asks the
# network nothing when none is missing.

BUILD ?= build
JOBS ?= $(shell nproc)
BUILD_PACKAGES := gcc libc6-dev cmake pkg-config libglib2.0-dev libconfuse-dev libjansson-dev \
                  libsqlite3-dev libncurses-dev libplplot-dev plplot-driver-cairo fonts-dejavu-core libgsl-dev
TEST_PACKAGES := libcunit1-dev
CHECK_PACKAGES := g++ clang clang-tidy libclang-rt-14-dev valgrind gcc-arm-none-eabi \
                  libnewlib-arm-none-eabi gcc-avr avr-libc binutils-avr simavr libsimavr-dev \
                  qemu-system-arm clang-format
LINUX_PACKAGES := qemu-system-arm qemu-system-x86 cpio kmod gcc-arm-linux-gnueabihf \
                  libc6-dev-armhf-cross device-tree-compiler e2fsprogs
BENCH_PACKAGES := valgrind
SHEET_PACKAGES := libreoffice-calc gnumeric
PROVE_PACKAGES := gcc libc6-dev frama-c-base
SHOT_PACKAGES := xterm xvfb imagemagick chromium

.PHONY: all demo test test-build test-linux test-spreadsheet examples check prove prove-few bench docs firmware-files screenshots install clean

all:
	@tools/need $(BUILD_PACKAGES)
	@cmake -S . -B $(BUILD) -DPINTLE_TESTS=OFF
	@cmake --build $(BUILD) -j $(JOBS) -- --no-print-directory -s

demo: all
	@$(BUILD)/pintle demo --into $(BUILD)/demo

test-build:
	@tools/need $(BUILD_PACKAGES) $(TEST_PACKAGES)
	@cmake -S . -B $(BUILD)/test -DPINTLE_TESTS=ON
	@cmake --build $(BUILD)/test -j $(JOBS) -- --no-print-directory -s

test: test-build
	@$(BUILD)/test/tests/pintle-tests

# The built tool under real kernels, in emulators; the first time some 120 MB of packages are fetched.
test-linux: test-build
	@tools/need $(LINUX_PACKAGES)
	@tests/linux/prepare $(BUILD)
	@tests/linux/run $(BUILD)

# What spreadsheets make of an export.
test-spreadsheet: test-build
	@tools/need $(SHEET_PACKAGES)
	@tools/spreadsheet $(BUILD)/test

examples:
	@tools/need $(BUILD_PACKAGES)
	@cmake -S . -B $(BUILD) -DPINTLE_TESTS=OFF -DPINTLE_EXAMPLES=ON
	@cmake --build $(BUILD) -j $(JOBS) -- --no-print-directory -s
	@tools/examples $(BUILD)

check:
	@tools/need $(BUILD_PACKAGES) $(TEST_PACKAGES) $(CHECK_PACKAGES)
	@tools/check $(BUILD)

# No undefined behaviour over all inputs; the first time some 200 MB of packages are fetched.
prove:
	@tools/need $(PROVE_PACKAGES)
	@tools/prove $(BUILD)

# What compensates, and what is quickly proven besides.
prove-few:
	@tools/need $(PROVE_PACKAGES)
	@tools/prove $(BUILD) correction text calendar card bme280 bmp180 ds3231 tof10120 veml7700

bench:
	@tools/need $(BUILD_PACKAGES) $(BENCH_PACKAGES)
	@bench/run $(BUILD)

docs: all
	@$(BUILD)/pintle explain --markdown > docs/troubleshooting.md
	@$(BUILD)/pintle parts --markdown > docs/parts.md

firmware-files:
	@tools/need gcc libc6-dev
	@tools/firmware-files $(BUILD) $(PART)

screenshots: all
	@tools/need $(SHOT_PACKAGES)
	@tools/screenshots $(BUILD)

install: all
	@cmake --install $(BUILD)

clean:
	rm -rf $(BUILD)
