<?php

declare(strict_types=1);

use Kaiseki\Core\Hypervisor\Beat;
use Kaiseki\Core\Hypervisor\BootReading;
use Kaiseki\Core\Hypervisor\BootStage;

/*
 * What machines say, as SeaBIOS, EDK II, SYSLINUX, GRUB and Linux print it; prompts are common practice.
 */

it('tells how far a machine is from what it said', function (string $said, ?BootStage $stage): void {
    expect(BootReading::stage($said))->toBe($stage)->and(BootReading::trouble($said))->toBeNull();
})->with([
    ['', null],
    ['something else', null],
    ["SeaBIOS (version 1.16.2-debian-1.16.2-1)\nBooting from Hard Disk...", BootStage::Firmware],
    ['BdsDxe: loading Boot0001 "UEFI QEMU HARDDISK" from PciRoot(0x0)', BootStage::Firmware],
    ["SeaBIOS\nSYSLINUX 6.04 EDD 20200816", BootStage::Loader],
    ["Welcome to GRUB!\nerror: no such device: root.", BootStage::Loader],
    ['[    0.000000] Linux version 6.1.0-18-cloud-amd64 (debian-kernel@lists.debian.org)', BootStage::Kernel],
    ["[    1.204551] EXT4-fs (vda2): mounted\n\ngate-console-2 login: ", BootStage::Prompt],
    ["[    1.2] x\n[    0.100000] y\n/ # ", BootStage::Prompt],
    ['[    2.0] systemd[1]: Reached target multi-user.target - Multi-User System.', BootStage::Prompt],
]);

it('tells that it will not come any further', function (string $said, string $words): void {
    expect(BootReading::trouble($said))->toContain($words);
})->with([
    ['No bootable device.', 'nothing to start from'],
    ['Shell> ', 'asks what to do'],
    ['[    0.9] Kernel panic - not syncing: Attempted to kill init! exitcode=0x00000100', 'gave up: "Kernel panic - not'],
    ['[    1.0] VFS: Unable to mount root fs on unknown-block(0,0)', 'root file system'],
    ['ALERT!  UUID=4be1 does not exist.  Dropping to a shell!', 'root file system'],
    ['You are in emergency mode. After logging in, type "journalctl -xb"', 'emergency'],
]);

it('takes neither one that computes, nor one that reads, nor one that is not let run, for one that stands still', function (): void {
    $first = new Beat(100.0, 5.0, 1000);
    expect((new Beat(110.0, 5.5, 1000))->isStillSince($first))->toBeTrue()
        ->and((new Beat(110.0, 9.0, 1000))->isStillSince($first))->toBeFalse()
        ->and((new Beat(110.0, 5.5, 1001))->isStillSince($first))->toBeFalse();
});
