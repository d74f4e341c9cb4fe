<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Instance;
use OpenSSLAsymmetricKey;
use Symfony\Component\Filesystem\Filesystem;

/** By what a medium knows its desk: a key that signs what it is told (Ed25519, RFC 8032), and a certificate for the line to it. */
final class MetalKey
{
    /** How the desk is called in its certificate: media know it by that, whatever its address is. */
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

    /** The certificate of the line, with the file of its key; both are made where there are none. */
    public static function certificate(): string
    {
        [$certificate, $key] = [Instance::folder('keys').'/metal.crt', Instance::folder('keys').'/metal.key'];
        if (! is_file($certificate)) {
            self::makeCertificate($certificate, $key);
        }

        return (string) file_get_contents($certificate);
    }

    /** @return non-empty-string */
    private static function pair(): string
    {
        $file = Instance::folder('keys').'/metal.ed25519';
        if (! is_file($file)) {
            self::put($file, sodium_crypto_sign_keypair());
        }

        return (string) file_get_contents($file) ?: throw CannotMakeMedium::because("The key $file cannot be read.");
    }

    private static function makeCertificate(string $certificate, string $key): void
    {
        $settings = Instance::folder('tmp').'/metal-certificate.cnf';
        (new Filesystem)->dumpFile($settings, "[req]\ndistinguished_name=dn\n[dn]\n[ext]\nsubjectAltName=DNS:".self::NAME."\n");
        $options = ['config' => $settings, 'x509_extensions' => 'ext', 'req_extensions' => 'ext', 'digest_alg' => 'sha256',
            'private_key_bits' => 2048];
        $made = openssl_pkey_new(['private_key_type' => OPENSSL_KEYTYPE_EC, 'curve_name' => 'prime256v1'] + $options);
        $request = $made instanceof OpenSSLAsymmetricKey ? openssl_csr_new(['commonName' => self::NAME], $made, $options) : false;
        $signed = $request === false || $request === true || ! $made instanceof OpenSSLAsymmetricKey
            ? false
            : openssl_csr_sign($request, null, $made, self::DAYS, $options, random_int(1, PHP_INT_MAX));
        [$pem, $secret] = ['', ''];
        if ($signed === false || ! openssl_x509_export($signed, $pem) || ! openssl_pkey_export($made, $secret, null, $options)) {
            throw CannotMakeMedium::because('No certificate could be made: '.(openssl_error_string() ?: 'openssl says nothing').'.');
        }
        self::put($key, $secret);
        self::put($certificate, $pem);
        (new Filesystem)->remove($settings);
    }

    /** Of two that make one at once, the first is kept. */
    private static function put(string $file, string $bytes): void
    {
        $new = "$file.".bin2hex(random_bytes(6));
        (new Filesystem)->dumpFile($new, $bytes);
        chmod($new, 0600);
        @link($new, $file);
        unlink($new);
    }
}
