<?php

declare(strict_types=1);

namespace App\People;

/**
 * What a password must not be, after NIST SP 800-63B, 5.1.1.2: short, common, a repetition, a run of keys, or made of the name of the
 * person or of this program. The list of common ones is that of the Openwall project (1996-2011, in the public domain), from five
 * letters on.
 */
final class Password
{
    private const LEAST = 12;

    private const MOST = 200;

    private const RUNS = ['01234567890123456789', 'abcdefghijklmnopqrstuvwxyz', 'qwertyuiopasdfghjklzxcvbnm', 'qazwsxedcrfvtgbyhnujmikolp'];

    private const AROUND = "0123456789 !?.,;:-_#*+$%&/()=\"'@";

    private const WRITTEN_FOR = ['0' => 'o', '1' => 'i', '3' => 'e', '4' => 'a', '5' => 's', '7' => 't', '@' => 'a', '$' => 's'];

    /** Why it cannot be one; null if it can. */
    public static function unfit(string $password, string $email, string $name): ?string
    {
        $plain = mb_strtolower($password);
        // What people put around a common word, and write in place of its letters.
        $core = strtr(trim($plain, self::AROUND), self::WRITTEN_FOR);
        $names = [strstr(mb_strtolower($email), '@', true) ?: '', ...explode(' ', mb_strtolower($name)), 'kaiseki'];
        $own = array_filter($names, fn (string $word): bool => mb_strlen($word) >= 4);

        return match (true) {
            mb_strlen($password) < self::LEAST => 'The password needs at least '.self::LEAST.' characters: a few unlike words do well.',
            strlen($password) > self::MOST => 'The password can have at most '.self::MOST.' bytes.',
            preg_match('/^(.{1,6}?)\1+.{0,5}$/us', $plain) === 1 => 'That password is one thing again and again.',
            self::isRun($core) || self::isRun($plain) => 'That password is a run of neighbouring keys or letters.',
            self::isCommon($plain) || self::isCommon($core) => 'That is among the passwords that are tried first.',
            in_array($core, $own, true) || in_array($plain, $own, true) => 'That password is the name of the person, or of this program.',
            default => null,
        };
    }

    private static function isCommon(string $word): bool
    {
        static $common = null;
        $common ??= array_flip(file(resource_path('common-passwords.txt'), FILE_IGNORE_NEW_LINES) ?: []);
        for ($at = 5; $at <= strlen($word) - 5; $at++) { // also two of them, one behind the other
            if (isset($common[substr($word, 0, $at)], $common[substr($word, $at)])) {
                return true;
            }
        }

        return isset($common[$word]);
    }

    private static function isRun(string $word): bool
    {
        foreach (self::RUNS as $run) {
            if (strlen($word) >= 8 && (str_contains($run, $word) || str_contains(strrev($run), $word))) {
                return true;
            }
        }

        return false;
    }
}
