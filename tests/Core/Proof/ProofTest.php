<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Proof\CanonicalJson;
use Kaiseki\Core\Proof\DigestLine;
use Kaiseki\Core\Proof\SignedProof;

// RFC 8785, section 3.2.3: the members of its sorting example, in the order that the text gives.
it('sorts members as the example of RFC 8785 does', function (): void {
    $members = [
        "\u{20ac}" => 'Euro Sign',
        "\r" => 'Carriage Return',
        "\u{fb33}" => 'Hebrew Letter Dalet With Dagesh',
        '1' => 'One',
        "\u{1f600}" => 'Emoji: Grinning Face',
        "\u{80}" => 'Control',
        "\u{f6}" => 'Latin Small Letter O With Diaeresis',
    ];
    preg_match_all('/:"([^"]+)"/', CanonicalJson::encode($members), $m);
    expect($m[1])->toBe([
        'Carriage Return',
        'One',
        'Control',
        'Latin Small Letter O With Diaeresis',
        'Euro Sign',
        'Emoji: Grinning Face',
        'Hebrew Letter Dalet With Dagesh',
    ]);
});

// RFC 8785, section 3.2.2.2: only the quotation mark, the backslash and control characters are escaped, in lower-case hex.
it('escapes as RFC 8785 does', function (): void {
    expect(CanonicalJson::encode("\u{20ac}$\u{f}\nA'B\"\\\\\"/\u{2028}"))->toBe('"€$\u000f\nA\'B\"\\\\\\\\\"/'."\u{2028}".'"');
});

it('has no spelling for what has several', function (mixed $value): void {
    expect(fn () => CanonicalJson::encode($value))->toThrow(InvalidArgumentException::class);
})->with([[1.5], ["\xff"], [2 ** 60], [new stdClass]]);

// RFC 8032, section 7.1, TEST 2: the key pair and the signature of the one-byte message 72.
it('signs with the Ed25519 of RFC 8032', function (): void {
    $pair = sodium_crypto_sign_seed_keypair((string) hex2bin('4ccd089b28ff96da9db6c346ec114e0f5b8a319f35aba624da8cf6ed4fb8a6fb'));
    expect(bin2hex(sodium_crypto_sign_publickey($pair)))->toBe('3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c');
    expect(bin2hex(sodium_crypto_sign_detached("\x72", sodium_crypto_sign_secretkey($pair))))->toBe(
        '92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00d291612bb0c00',
    );
});

it('notices a changed letter anywhere in the evidence', function (): void {
    $proof = SignedProof::sign(['order' => 'Put back 1 file', 'files' => 1, 'right' => true], sodium_crypto_sign_keypair());
    expect(SignedProof::parse($proof->json())->isSound())->toBeTrue();
    foreach ([['Put back 1', 'Put back 2'], ['"files":1', '"files":2'], ['"right":true', '"right":false']] as [$from, $to]) {
        expect(SignedProof::parse(str_replace($from, $to, $proof->json()))->isSound())->toBeFalse();
    }
});

it('does not take just anything for a proof', function (string $json): void {
    expect(fn () => SignedProof::parse($json))->toThrow(InvalidArgumentException::class);
})->with([[''], ['[]'], ['{"evidence":{},"signature":{"public_key":"eA==","value":"eA=="}}'], ['{"evidence":"x"}']]);

// RFC 7693, appendix A gives BLAKE2b-512 of "abc"; this is the 256-bit digest of it by b2sum --length=256 of GNU coreutils.
it('digests with the BLAKE2b of RFC 7693', function (): void {
    expect(bin2hex(ContentDigest::of('abc')))->toBe('bddd813c634239723171ef3fee98579b94964e3bb1cb3e427262c8c068d52319');
    $digest = new ContentDigest;
    $digest->data('a');
    $digest->hole(3_000_000);
    expect($digest->finish())->toBe(ContentDigest::of('a'.str_repeat("\0", 3_000_000)));
});

it('escapes names in a manifest as coreutils does', function (): void {
    expect(DigestLine::of(str_repeat("\1", 32), "a\nb\\c"))->toBe('\\'.str_repeat('01', 32).'  a\nb\\\\c'."\n");
    expect(DigestLine::of(str_repeat("\1", 32), 'plain'))->toBe(str_repeat('01', 32)."  plain\n");
});
