<?php

declare(strict_types=1);

namespace App\Line;

use App\Instance;
use Closure;
use OpenSSLCertificateSigningRequest;
use Symfony\Component\Filesystem\Filesystem;

/**
 * By what media and agents know their desk: a key that signs what they are told (Ed25519, RFC 8032), and a certificate for the line to
 * it.
 */
final class LineKey
{
    /** How the desk is called in its certificate: it is known by that, whatever its address is. */
    public const NAME = 'kaiseki-desk';

    private const DAYS = 3650;

    /** Before the 32 bytes of a public key (RFC 8410: SubjectPublicKeyInfo of id-Ed25519). */
    private const SPKI = '302a300506032b6570032100';

    public static function sign(string $bytes): string
    {
        return sodium_crypto_sign_detached($bytes, sodium_crypto_sign_secretkey(self::pair()));
    }

    /** As openssl(1) reads it. */
    public static function publicPem(): string
    {
        $der = hex2bin(self::SPKI).sodium_crypto_sign_publickey(self::pair());

        return "-----BEGIN PUBLIC KEY-----\n".base64_encode($der)."\n-----END PUBLIC KEY-----\n";
    }

    /** The beginning of its digest: what people compare. */
    public static function fingerprint(): string
    {
        return implode(' ', str_split(substr(hash('sha256', sodium_crypto_sign_publickey(self::pair())), 0, 24), 4));
    }

    /** The certificate of the line; it and its key are made where there are none. */
    public static function certificate(): string
    {
        $key = Instance::secret('metal.key', self::makeKey(...));

        return Instance::secret('metal.crt', fn (): string => self::makeCertificate($key));
    }

    /** @return non-empty-string */
    private static function pair(): string
    {
        return Instance::secret('metal.ed25519', sodium_crypto_sign_keypair(...)) ?: throw NoLine::because('The key is empty.');
    }

    private static function makeKey(): string
    {
        return self::withOptions(function (array $options): ?string {
            $made = openssl_pkey_new(['private_key_type' => OPENSSL_KEYTYPE_EC, 'curve_name' => 'prime256v1'] + $options);

            return $made !== false && openssl_pkey_export($made, $pem, null, $options) ? $pem : null;
        });
    }

    private static function makeCertificate(string $key): string
    {
        return self::withOptions(function (array $options) use ($key): ?string {
            $own = openssl_pkey_get_private($key);
            $request = $own === false ? false : openssl_csr_new(['commonName' => self::NAME], $own, $options);
            $signed = $own === false || ! $request instanceof OpenSSLCertificateSigningRequest
                ? false
                : openssl_csr_sign($request, null, $own, self::DAYS, $options, random_int(1, PHP_INT_MAX));

            return $signed !== false && openssl_x509_export($signed, $pem) ? $pem : null;
        });
    }

    /** @param  Closure(array<string, mixed>): ?string  $make  which is given what openssl is to be told */
    private static function withOptions(Closure $make): string
    {
        $settings = Instance::folder('tmp').'/metal-'.bin2hex(random_bytes(6)).'.cnf';
        (new Filesystem)->dumpFile($settings, "[req]\ndistinguished_name=dn\n[dn]\n[ext]\nsubjectAltName=DNS:".self::NAME."\n");
        try {
            return $make([
                'config' => $settings, 'x509_extensions' => 'ext', 'req_extensions' => 'ext', 'digest_alg' => 'sha256',
                'private_key_bits' => 2048,
            ]) ?? throw NoLine::because('No certificate could be made: '.(openssl_error_string() ?: 'openssl says nothing').'.');
        } finally {
            (new Filesystem)->remove($settings);
        }
    }
}
