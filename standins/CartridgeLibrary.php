<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use InvalidArgumentException;
use Kaiseki\Core\Tape\Cartridge;
use Kaiseki\Core\Tape\TapeLibrary;
use Kaiseki\Core\Tape\TapeSegment;
use Kaiseki\Core\Tape\UnableToUseTape;

/**
 * A tape library in small, with a single drive, some slots and a shelf. It takes its time over loading, winding and reading, and
 * writes a line to `drive.log` each time it loads a cartridge.
 *
 * The folder holds `library.json` (the slots and speeds, and where each cartridge is), `LABEL.tape` with what was written,
 * and `drive.json` (what is in the drive, and where it is wound to).
 */
final class CartridgeLibrary implements TapeLibrary
{
    /** @var resource|null */
    private $drive = null;

    private ?string $loaded = null;

    private int $position = 0;

    /** Seconds that are still to be waited for what was read. */
    private float $owed = 0.0;

    /** @var resource|null */
    private $tape = null;

    public function __construct(public readonly string $folder)
    {
    }

    /**
     * @param  list<string>  $labels  the first so many as there are slots stand in them, the rest on the shelf
     */
    public static function build(
        string $folder,
        array $labels,
        int $slots,
        int $capacity,
        float $loadSeconds,
        float $readMbS,
        float $windMbS,
    ): self {
        if ($labels === [] || $slots < 1 || $capacity < 1 || $readMbS <= 0 || $windMbS <= 0 || $loadSeconds < 0) {
            throw new InvalidArgumentException('A tape library needs cartridges with room, slots, and speeds above 0.');
        }
        if (! is_dir($folder)) {
            mkdir($folder, 0700, true);
        }
        $library = new self($folder);
        $cartridges = [];
        foreach ($labels as $i => $label) {
            if (preg_match('/^[A-Z0-9]{1,16}$/D', $label) !== 1) {
                throw new InvalidArgumentException("\"$label\" is not a label: those have capital letters and digits, 16 at most.");
            }
            touch("$folder/$label.tape");
            $cartridges[$label] = ['slot' => $i < $slots ? $i + 1 : null, 'capacity' => $capacity];
        }
        $library->write([
            'slots' => $slots,
            'load_s' => $loadSeconds,
            'read_mb_s' => $readMbS,
            'wind_mb_s' => $windMbS,
            'cartridges' => $cartridges,
        ]);

        return $library;
    }

    public function answers(): bool
    {
        return is_readable("{$this->folder}/library.json");
    }

    public function cartridges(): array
    {
        $cartridges = [];
        foreach ($this->state()['cartridges'] as $label => $cartridge) {
            clearstatcache(true, "{$this->folder}/$label.tape");
            $cartridges[] = new Cartridge(
                (string) $label,
                $cartridge['slot'],
                $cartridge['capacity'],
                (int) @filesize("{$this->folder}/$label.tape"),
            );
        }

        return $cartridges;
    }

    public function read(string $label, int $position, int $length): string
    {
        $this->load($label);
        $state = $this->state();
        $this->wait(abs($position - $this->position) / ($state['wind_mb_s'] * 1e6));
        if ($this->tape === null || fseek($this->tape, $position) !== 0) {
            throw UnableToUseTape::badSpot($label, $position);
        }
        $bytes = fread($this->tape, max(1, $length));
        if ($bytes === false) {
            throw UnableToUseTape::badSpot($label, $position);
        }
        $this->position = $position + strlen($bytes);
        $this->wait(strlen($bytes) / ($state['read_mb_s'] * 1e6));

        return $bytes;
    }

    public function append(string $file): array
    {
        $source = fopen($file, 'rb') ?: throw UnableToUseTape::full();
        $segments = [];
        $left = (int) filesize($file);
        while ($left > 0) {
            $cartridge = $this->cartridgeWithRoom();
            $this->load($cartridge->label);
            $part = min($left, $cartridge->capacity - $cartridge->used);
            $tape = fopen("{$this->folder}/{$cartridge->label}.tape", 'ab') ?: throw UnableToUseTape::noAnswer();
            if (stream_copy_to_stream($source, $tape, $part) !== $part || ! fclose($tape)) {
                throw UnableToUseTape::full();
            }
            $segments[] = new TapeSegment($cartridge->label, $cartridge->used, $part);
            $this->position = $cartridge->used + $part;
            $left -= $part;
        }

        return $segments;
    }

    public function putIn(string $label): void
    {
        $state = $this->state();
        $cartridge = $state['cartridges'][$label] ?? throw UnableToUseTape::unknown($label);
        if ($cartridge['slot'] !== null) {
            return;
        }
        $taken = array_column($state['cartridges'], 'slot');
        $free = array_values(array_diff(range(1, $state['slots']), $taken))[0] ?? throw UnableToUseTape::noSlot();
        $state['cartridges'][$label]['slot'] = $free;
        $this->write($state);
    }

    public function takeOut(string $label): void
    {
        $state = $this->state();
        if (! isset($state['cartridges'][$label])) {
            throw UnableToUseTape::unknown($label);
        }
        $state['cartridges'][$label]['slot'] = null;
        $this->write($state);
    }

    public function release(): void
    {
        if ($this->drive !== null) {
            if (is_dir($this->folder)) {
                // the library itself may be gone
                file_put_contents("{$this->folder}/drive.json", json_encode(['label' => $this->loaded, 'position' => $this->position]));
            }
            fclose($this->drive);
        }
        $this->drive = $this->tape = $this->loaded = null;
    }

    public function __destruct()
    {
        $this->release();
    }

    private function load(string $label): void
    {
        $this->takeDrive();
        $state = $this->state();
        $cartridge = $state['cartridges'][$label] ?? throw UnableToUseTape::unknown($label);
        if ($cartridge['slot'] === null) {
            throw UnableToUseTape::onTheShelf($label);
        }
        if ($this->loaded !== $label) {
            $this->wait($state['load_s']);
            file_put_contents("{$this->folder}/drive.log", "$label\n", FILE_APPEND);
            [$this->loaded, $this->position, $this->tape] = [$label, 0, null];
        }
        $this->tape ??= fopen("{$this->folder}/$label.tape", 'rb') ?: throw UnableToUseTape::badSpot($label, 0);
    }

    /** One at a time: others wait for the drive. */
    private function takeDrive(): void
    {
        if ($this->drive !== null) {
            return;
        }
        $drive = @fopen("{$this->folder}/drive.lock", 'cb');
        if ($drive === false || ! flock($drive, LOCK_EX)) {
            throw UnableToUseTape::noAnswer();
        }
        $this->drive = $drive;
        $left = json_decode((string) @file_get_contents("{$this->folder}/drive.json"), true);
        [$this->loaded, $this->position] = is_array($left) ? [$left['label'], $left['position']] : [null, 0];
    }

    private function cartridgeWithRoom(): Cartridge
    {
        foreach ($this->cartridges() as $cartridge) {
            if (! $cartridge->isOnShelf() && $cartridge->used < $cartridge->capacity) {
                return $cartridge;
            }
        }
        throw UnableToUseTape::full();
    }

    private function wait(float $seconds): void
    {
        $this->owed += $seconds;
        if ($this->owed >= 0.01) {
            usleep((int) ($this->owed * 1e6));
            $this->owed = 0.0;
        }
    }

    /**
     * @return array{slots: int, load_s: float, read_mb_s: float, wind_mb_s: float, cartridges: array<string, array{slot: ?int,
     *     capacity: int}>}
     */
    private function state(): array
    {
        $state = json_decode((string) @file_get_contents("{$this->folder}/library.json"), true);

        return is_array($state) ? $state : throw UnableToUseTape::noAnswer();
    }

    /** @param  array<string, mixed>  $state */
    private function write(array $state): void
    {
        file_put_contents("{$this->folder}/library.json.new", json_encode($state, JSON_PRETTY_PRINT | JSON_THROW_ON_ERROR));
        rename("{$this->folder}/library.json.new", "{$this->folder}/library.json");
    }
}
