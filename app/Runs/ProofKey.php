<?php

declare(strict_types=1);

namespace App\Runs;

use App\Instance;
use InvalidArgumentException;

/** The key by which this installation signs proofs (Ed25519), and those by which it did before. */
final class ProofKey
{
    /** The file in which its public half lies beside what is signed by it. */
    public const FILE = 'proof-key.pub';

    /** @return non-empty-string the key pair, made when it is first needed */
    public static function pair(): string
    {
        $pair = Instance::secret('proof.key', sodium_crypto_sign_keypair(...));
        assert($pair !== '');

        return $pair;
    }

    /** In base64, as it is shown and compared. */
    public static function shown(): string
    {
        return base64_encode(sodium_crypto_sign_publickey(self::pair()));
    }

    /**
     * Those of this desk: its own, where it has one, and what lies in the folder of keys as proof-*.pub from before.
     *
     * @return list<string> 32 bytes each
     */
    public static function known(): array
    {
        $pair = @file_get_contents(Instance::path('keys/proof.key'));
        $own = $pair !== false && strlen($pair) === SODIUM_CRYPTO_SIGN_KEYPAIRBYTES ? [sodium_crypto_sign_publickey($pair)] : [];

        return [...$own, ...array_map(self::read(...), glob(Instance::path('keys/proof-*.pub')) ?: [])];
    }

    /**
     * @return string 32 bytes
     *
     * @throws InvalidArgumentException if the file holds no public key
     */
    public static function read(string $file): string
    {
        $text = @file_get_contents($file);
        $key = $text === false ? false : base64_decode(trim((string) preg_replace('/^#.*$/m', '', $text)), true);
        if ($key === false || strlen($key) !== SODIUM_CRYPTO_SIGN_PUBLICKEYBYTES) {
            throw new InvalidArgumentException("\"$file\" holds no key: it is 32 bytes in base64, as the page of proofs shows it.");
        }

        return $key;
    }

    /** What is written into a file. */
    public static function text(): string
    {
        return "# The key by which this installation of Kaiseki signs its proofs (Ed25519):\n"
            .'# bin/kaiseki check-proof FILE --key='.self::FILE."\n".self::shown()."\n";
    }
}
