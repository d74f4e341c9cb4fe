<?php

declare(strict_types=1);

use Kaiseki\Core\Volume\VolumeMark;
use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

// The oracle is who made them: mke2fs and mkfs.fat are told which number they give, and blkid of util-linux reads what it is.

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->made = function (int $bytes, string ...$command): string {
        $file = $this->scratch->file('volume', '');
        $made = fopen($file, 'r+b');
        ftruncate($made, $bytes);
        fclose($made);
        (new Process([...$command, $file]))->mustRun();

        return (string) file_get_contents($file, false, null, 0, VolumeMark::BYTES);
    };
    $this->uuid = fn (): string => trim((new Process(['blkid', '-o', 'value', '-s', 'UUID', $this->scratch->at('volume')]))->mustRun()
        ->getOutput());
});

afterEach(function (): void {
    $this->scratch->remove();
});

it('knows ext2 to ext4 by the UUID that they were made with', function (string $type): void {
    $uuid = '6b7c5dd2-2f7e-4a0e-9b1a-6f1d5a3c9e10';
    $start = ($this->made)(8 << 20, 'mke2fs', '-q', '-t', $type, '-U', $uuid);
    expect(bin2hex(VolumeMark::of($start)->bytes))->toBe(str_replace('-', '', $uuid))
        ->and(substr($start, VolumeMark::of($start)->at, 16))->toBe(VolumeMark::of($start)->bytes)
        ->and(($this->uuid)())->toBe($uuid);
})->with(['ext2', 'ext3', 'ext4']);

it('knows FAT by the number that it was made with', function (int $bytes, string $bits): void {
    $start = ($this->made)($bytes, 'mkfs.fat', '-F', $bits, '-i', 'C0FFEE12');
    $mark = VolumeMark::of($start);
    expect(bin2hex(substr($mark->bytes, 0, 4)))->toBe('12eeffc0')->and(substr($start, $mark->at, 23))->toBe($mark->bytes)
        ->and(($this->uuid)())->toBe('C0FF-EE12');
})->with([[4 << 20, '12'], [16 << 20, '16'], [64 << 20, '32']]);

it('knows XFS by the UUID that it was made with', function (): void {
    $start = ($this->made)(320 << 20, 'mkfs.xfs', '-q', '-m', 'uuid=6b7c5dd2-2f7e-4a0e-9b1a-6f1d5a3c9e11');
    $mark = VolumeMark::of($start);
    expect([bin2hex($mark->bytes), $mark->at])->toBe(['6b7c5dd22f7e4a0e9b1a6f1d5a3c9e11', 32])
        ->and(($this->uuid)())->toBe('6b7c5dd2-2f7e-4a0e-9b1a-6f1d5a3c9e11');
});

it('knows Btrfs by the UUID that it was made with', function (): void {
    $start = ($this->made)(128 << 20, 'mkfs.btrfs', '-q', '-U', '6b7c5dd2-2f7e-4a0e-9b1a-6f1d5a3c9e12');
    $mark = VolumeMark::of($start);
    expect([bin2hex($mark->bytes), $mark->at])->toBe(['6b7c5dd22f7e4a0e9b1a6f1d5a3c9e12', 65_568])
        ->and(($this->uuid)())->toBe('6b7c5dd2-2f7e-4a0e-9b1a-6f1d5a3c9e12');
});

it('knows NTFS by the number that it was given', function (): void {
    $start = ($this->made)(16 << 20, 'mkntfs', '-q', '-F');
    $mark = VolumeMark::of($start);
    expect(strtoupper(bin2hex(strrev($mark->bytes))))->toBe(($this->uuid)())->and(substr($start, $mark->at, 8))->toBe($mark->bytes);
});

it('takes nothing else for one, and nothing that was cut off', function (): void {
    $ext = ($this->made)(8 << 20, 'mke2fs', '-q', '-t', 'ext4');
    expect(VolumeMark::of(''))->toBeNull()
        ->and(VolumeMark::of(str_repeat("\0", VolumeMark::BYTES)))->toBeNull()
        ->and(VolumeMark::of(random_bytes(64)))->toBeNull()
        ->and(VolumeMark::of(substr($ext, 0, 1130)))->toBeNull()
        ->and(VolumeMark::of(($this->made)(8 << 20, 'mke2fs', '-q', '-t', 'ext4', '-U', 'clear')))->toBeNull();
});
