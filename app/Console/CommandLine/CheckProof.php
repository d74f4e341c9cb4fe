<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Runs\ProofKey;
use InvalidArgumentException;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Proof\SignedProof;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class CheckProof extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('check-proof')
            ->setDescription('Checks by whom a proof was signed, and that not a letter of it was changed')
            ->addArgument('file', InputArgument::REQUIRED, 'the proof; a manifest beside it, ending in .b2sum, is checked too')
            ->addOption(
                'key',
                null,
                InputOption::VALUE_REQUIRED,
                'a file with the key that is to have signed it, in base64; else those of this desk',
            );
    }

    protected function needsInstance(InputInterface $input): bool
    {
        return false;
    }

    protected function carryOut(InputInterface $input): int
    {
        $file = (string) $input->getArgument('file');
        $json = @file_get_contents($file);
        $proof = SignedProof::parse($json === false ? throw new InvalidArgumentException("There is no file \"$file\".") : $json);
        $manifest = self::beside("$file.b2sum", $proof->evidence['manifest_blake2b_256'] ?? '');
        $entries = self::beside("$file.entries.jsonl", $proof->evidence['entries_blake2b_256'] ?? '');
        // Byte for byte in its one canonical spelling, so that also what a JSON reader would pass over is found.
        $sound = $proof->isSound() && $proof->json() === $json;
        $named = $input->getOption('key');
        $known = $named === null ? ProofKey::known() : [ProofKey::read((string) $named)];
        $isKnown = in_array($proof->publicKey, $known, true);
        $this->answer(
            [
                'sound' => $sound,
                'manifest' => $manifest,
                'entries' => $entries,
                'right' => $proof->evidence['right'] ?? null,
                'public_key' => base64_encode($proof->publicKey),
                'key_known' => $isKnown,
            ],
            fn (): array => [
                $sound ? 'The proof is as it was signed.' : 'The proof was changed after it was signed, or the signature is not its own.',
                self::words('manifest', $manifest),
                self::words('list of entries', $entries),
                self::signer(base64_encode($proof->publicKey), $isKnown, $named !== null, array_map(base64_encode(...), $known)),
            ],
        );

        return $sound && $isKnown && $manifest !== false && $entries !== false ? self::DONE : self::NOT_ALL_RIGHT;
    }

    /** @param  list<string>  $known  keys that would be right */
    private static function signer(string $key, bool $isKnown, bool $isNamed, array $known): string
    {
        return match (true) {
            $isKnown => 'Signed by the '.($isNamed ? 'key that was named' : 'key of this desk').", $key.",
            $known === [] => "Signed, by a key that is not known here: $key. Name the one it should be with --key=FILE.",
            default => "Signed, by a key that is not known here: $key, and not ".implode(' or ', $known).'.',
        };
    }

    /** Whether a file beside the proof is the one it names; null if there is none. */
    private static function beside(string $file, string $digest): ?bool
    {
        return is_file($file)
            ? bin2hex(ContentDigest::ofFile($file) ?? throw new InvalidArgumentException("\"$file\" cannot be read.")) === $digest
            : null;
    }

    private static function words(string $what, ?bool $isRight): string
    {
        return match ($isRight) {
            true => "The $what beside it is the one it names.",
            false => "The $what beside it is not the one it names.",
            null => "There is no $what beside it.",
        };
    }
}
