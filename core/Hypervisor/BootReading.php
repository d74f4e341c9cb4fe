<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/**
 * Tells from what a machine said how far it has come, and whether it cannot come any further. The words are those of SeaBIOS
 * (src/boot.c), EDK II (BdsDxe), SYSLINUX, GRUB, systemd-boot and Linux (init/main.c, init/do_mounts.c, kernel/panic.c), and what
 * getty and shells ask with (common practice).
 */
final class BootReading
{
    /** Stage => what it is known by. */
    private const STAGES = [
        [BootStage::Firmware, '/SeaBIOS|BdsDxe|UEFI Interactive Shell|Booting from/'],
        [BootStage::Loader, '/SYSLINUX|ISOLINUX|GNU GRUB|GRUB loading|Welcome to GRUB|systemd-boot|Loading (Linux|vmlinuz)/'],
        [BootStage::Kernel, '/Linux version \d|\[ *\d+\.\d{6}\] /'],
        [BootStage::Prompt, '/(^|\n)[^\n]{0,80}(login: ?$|login: *\n|[#$] $)|reached target multi-user/i'],
    ];

    /** What ends it, in the words that it says it with => in ours. */
    private const TROUBLES = [
        '/No bootable device|no boot(able)? (device|medium)/i' => 'its firmware finds nothing to start from',
        '/Shell>/' => 'its firmware finds nothing to start from, and asks what to do',
        '/(Kernel panic - not syncing: [^\n]{0,120})/' => 'its kernel gave up',
        '/((VFS: )?(Unable to mount root fs|Cannot open root device)[^\n]{0,100})/' => 'it does not find its root file system',
        '/(ALERT!\s+[^\n]{0,80}does not exist)/' => 'it does not find its root file system',
        '/(You are in emergency mode)/' => 'it stopped in its emergency mode',
    ];

    /** The last stage that can be told from what it said; null where that is nothing. */
    public static function stage(string $said): ?BootStage
    {
        $last = null;
        foreach (self::STAGES as [$stage, $pattern]) {
            $last = preg_match($pattern, $said) === 1 ? $stage : $last;
        }

        return $last;
    }

    /** Why it cannot come any further, in words; null where nothing of that kind was said. */
    public static function trouble(string $said): ?string
    {
        foreach (self::TROUBLES as $pattern => $words) {
            if (preg_match($pattern, $said, $found) === 1) {
                return $words.(isset($found[1]) ? ': "'.mb_scrub(trim($found[1])).'"' : '');
            }
        }

        return null;
    }
}
