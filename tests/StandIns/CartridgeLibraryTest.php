<?php

declare(strict_types=1);

use Kaiseki\Core\Tape\TapeBytes;
use Kaiseki\Core\Tape\TapeSegment;
use Kaiseki\Core\Tape\UnableToUseTape;
use Kaiseki\StandIns\CartridgeLibrary;
use Tests\Support\Scratch;

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->library = CartridgeLibrary::build(
        $this->scratch->path.'/library',
        ['HV1', 'HV2', 'HV3'],
        2,
        1_000_000,
        0,
        1_000_000,
        1_000_000,
    );
});

afterEach(fn () => $this->scratch->remove());

it('writes behind what is there, goes on on the next cartridge, and reads it back as one', function (): void {
    $content = random_bytes(1_500_000);
    $first = $this->library->append($this->scratch->file('a', random_bytes(600_000)));
    $segments = $this->library->append($this->scratch->file('b', $content));
    expect(array_map(fn (TapeSegment $segment): array => $segment->toArray(), [...$first, ...$segments]))->toBe([
        ['label' => 'HV1', 'position' => 0, 'bytes' => 600_000],
        ['label' => 'HV1', 'position' => 600_000, 'bytes' => 400_000],
        ['label' => 'HV2', 'position' => 0, 'bytes' => 1_000_000],
    ]);
})->throws(UnableToUseTape::class, 'no cartridge in the library has room left');

it('reads what spans two cartridges from any offset, and loads each once when it goes forward', function (): void {
    $content = random_bytes(1_200_000);
    $this->library->append($this->scratch->file('a', random_bytes(300_000)));
    $segments = $this->library->append($this->scratch->file('b', $content));
    $this->library->release();
    $log = "{$this->library->folder}/drive.log";
    file_put_contents($log, '');
    $bytes = new TapeBytes($this->library, $segments);
    expect($bytes->size())->toBe(1_200_000);
    $all = '';
    while (($part = $bytes->read(100_000)) !== '') {
        $all .= $part;
    }
    expect($all)
        ->toBe($content)
        ->and(file($log, FILE_IGNORE_NEW_LINES))
        ->toBe(['HV1', 'HV2']);
    foreach ([0, 699_999, 700_000, 1_199_999] as $offset) {
        $bytes->seek($offset);
        $read = $bytes->read(10);
        expect($read)->toBe(substr($content, $offset, strlen($read)))->and($read)->not->toBe('');
    }
    $bytes->seek(1_200_000);
    expect($bytes->read(1))->toBe('');
});

it('gives nothing from the shelf until a person has put the cartridge in, and has only so many slots', function (): void {
    expect(fn () => $this->library->read('HV3', 0, 10))->toThrow(UnableToUseTape::class, 'HV3 is on the shelf');
    expect(fn () => $this->library->putIn('HV3'))->toThrow(UnableToUseTape::class, 'no slot');
    $this->library->takeOut('HV1');
    $this->library->putIn('HV3');
    expect($this->library->read('HV3', 0, 10))->toBe('');
    expect(fn () => $this->library->read('HV9', 0, 10))->toThrow(UnableToUseTape::class, 'no cartridge HV9');
    expect(array_map(fn ($cartridge): ?int => $cartridge->slot, $this->library->cartridges()))->toBe([null, 2, 1]);
});

it('does not answer when its folder is gone', function (): void {
    rename($this->library->folder, $this->scratch->path.'/elsewhere');
    expect($this->library->answers())
        ->toBeFalse()
        ->and(fn () => $this->library->cartridges())
        ->toThrow(UnableToUseTape::class, 'does not answer');
});

it('refuses a library that makes no sense', function (array $labels, int $slots): void {
    CartridgeLibrary::build($this->scratch->path.'/other', $labels, $slots, 10, 0, 1, 1);
})
    ->with([[[], 1], [['../x'], 1], [['HV1'], 0]])
    ->throws(InvalidArgumentException::class);
