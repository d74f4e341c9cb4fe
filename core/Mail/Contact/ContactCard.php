<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Contact;

use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Mail\Calendar\CalendarComponent;
use Kaiseki\Core\Mail\Calendar\ComponentReader;
use Kaiseki\Core\Mail\Calendar\ContentLine;

/** Somebody's card: vCard 2.1, 3.0 (RFC 2426) or 4.0 (RFC 6350). */
final readonly class ContactCard
{
    /** What a card is read by, in this order => what a person calls it. */
    private const FIELDS = [
        'NICKNAME' => 'Called', 'ORG' => 'Organisation', 'TITLE' => 'Position', 'ROLE' => 'Role', 'TEL' => 'Phone', 'EMAIL' => 'Mail',
        'IMPP' => 'Message', 'ADR' => 'Address', 'URL' => 'Page', 'BDAY' => 'Birthday', 'ANNIVERSARY' => 'Anniversary',
        'CATEGORIES' => 'Groups', 'MEMBER' => 'Has in it', 'X-ADDRESSBOOKSERVER-MEMBER' => 'Has in it', 'NOTE' => 'Note',
    ];

    private const PARTED = ['ORG', 'ADR'];

    private const LONGEST_PICTURE = 4 << 20;

    /** @param  list<string>  $wrong  what is wrong with it, in words */
    private function __construct(public string $bytes, public CalendarComponent $root, public array $wrong)
    {
    }

    public static function of(string $bytes): self
    {
        [$read, $wrong] = ComponentReader::read($bytes);
        $root = $read[0] ?? null;
        if ($root === null || $root->name !== 'VCARD') {
            $wrong[] = 'it is no contact';
        }

        return new self($bytes, $root ?? new CalendarComponent('VCARD', 0), array_values(array_unique($wrong)));
    }

    /** BLAKE2b-256 of what it says, in whatever order, case and folding a server writes it. */
    public function identity(): string
    {
        return ContentDigest::of($this->root->canonical());
    }

    public function uid(): string
    {
        return (string) preg_replace('/^urn:uuid:/i', '', $this->root->text('UID'));
    }

    public function name(): string
    {
        $name = $this->root->text('FN');
        if ($name === '' && ($parts = $this->root->first('N')?->parts()) !== null) {
            $name = trim(implode(' ', array_filter([$parts[3] ?? '', $parts[1] ?? '', $parts[2] ?? '', $parts[0]])));
        }

        return $name;
    }

    public function organisation(): string
    {
        return implode(', ', array_filter($this->root->first('ORG')?->parts() ?? []));
    }

    /** @return list<string> */
    public function mails(): array
    {
        return $this->texts('EMAIL');
    }

    /** @return list<string> */
    public function phones(): array
    {
        return array_map(fn (string $text): string => (string) preg_replace('/^tel:/i', '', $text), $this->texts('TEL'));
    }

    /** @return list<string> */
    public function addresses(): array
    {
        return array_map(fn (ContentLine $line): string => implode(', ', array_filter($line->parts())), $this->root->all('ADR'));
    }

    /** @return list<ContactField> */
    public function fields(): array
    {
        $fields = [];
        foreach (self::FIELDS as $name => $field) {
            foreach ($this->root->all($name) as $line) {
                $text = in_array($name, self::PARTED, true) ? implode(', ', array_filter($line->parts())) : $line->text();
                $fields[] = new ContactField($field, $this->kindOf($line), $text);
            }
        }

        return array_values(array_filter($fields, fn (ContactField $one): bool => $one->text !== ''));
    }

    /** Bytes of its picture; '' if it brings none. One from elsewhere is not fetched. */
    public function picture(): string
    {
        $line = $this->root->first('PHOTO');

        return $line === null || strlen($line->raw) > self::LONGEST_PICTURE ? '' : $line->binary();
    }

    /** All that can be read in it. */
    public function words(): string
    {
        $words = array_map(fn (ContactField $field): string => $field->text, $this->fields());

        return implode("\n", [$this->name(), ...$words, ...self::joined($this->phones())]);
    }

    /**
     * Numbers as people type them: without spaces, with and without what stands before the first of them.
     *
     * @param  list<string>  $phones
     * @return list<string>
     */
    public static function joined(array $phones): array
    {
        $joined = [];
        foreach ($phones as $phone) {
            preg_match_all('/\d+/', $phone, $groups);
            $joined[] = implode('', $groups[0]);
            $joined[] = implode('', array_slice($groups[0], 1));
        }

        return array_values(array_unique(array_filter($joined, fn (string $one): bool => strlen($one) > 3)));
    }

    /** @return list<string> */
    private function texts(string $name): array
    {
        return array_values(array_filter(array_map(fn (ContentLine $line): string => $line->text(), $this->root->all($name))));
    }

    private function kindOf(ContentLine $line): string
    {
        if ($line->group !== '') { // how some programs name a field (common practice): item1.TEL beside item1.X-ABLABEL
            foreach ($this->root->all('X-ABLABEL') as $label) {
                if ($label->group === $line->group) {
                    return trim((string) preg_replace('/^_\$!<(.*)>!\$_$/', '$1', $label->text()));
                }
            }
        }
        $types = array_diff(array_map(strtolower(...), $line->parameters['TYPE'] ?? []), ['internet', 'voice', 'pref']);

        return mb_scrub(implode(', ', array_slice($types, 0, 4)));
    }
}
