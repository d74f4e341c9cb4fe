<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

use Kaiseki\Core\Archive\ContentDigest;

/** A message as it was sent (RFC 5322), read with limits; what is broken in it is told and never fatal. */
final class Message
{
    /** Of each of its texts so many stored bytes are decoded. */
    private const TEXT = 1 << 20;

    private const MOST_REFERENCES = 200;

    /** @param  list<string>  $wrong  what is wrong with it, in words */
    private function __construct(
        public readonly string $bytes,
        public readonly MessagePart $root,
        public readonly array $wrong,
    ) {
    }

    public static function of(string $bytes): self
    {
        [$root, $wrong] = MessageReader::read($bytes);

        return new self($bytes, $root, $wrong);
    }

    /**
     * What makes it the same message wherever it lies: BLAKE2b-256 of it with every line ended by a newline alone, since servers
     * store it with either ending.
     */
    public static function identityOf(string $bytes): string
    {
        return ContentDigest::of(str_contains($bytes, "\r\n") ? str_replace("\r\n", "\n", $bytes) : $bytes);
    }

    public function subject(): string
    {
        return HeaderWords::text($this->root->first('subject'));
    }

    /** @return list<MailAddress> */
    public function from(): array
    {
        return MailAddress::list($this->root->first('from'));
    }

    /** @return list<MailAddress> */
    public function to(): array
    {
        return $this->addresses('to');
    }

    /** @return list<MailAddress> */
    public function copiedTo(): array
    {
        return [...$this->addresses('cc'), ...$this->addresses('bcc')];
    }

    /** Without its angle brackets; '' if it has none. */
    public function messageId(): string
    {
        return self::identifiers($this->root->first('message-id'))[0] ?? '';
    }

    /** @return list<string> of the messages before it in its thread, the first of them first (RFC 5322, section 3.6.4) */
    public function references(): array
    {
        $named = implode(' ', [...$this->root->headers['references'] ?? [], $this->root->first('in-reply-to')]);

        return array_slice(array_values(array_unique(self::identifiers($named))), 0, self::MOST_REFERENCES);
    }

    /** Seconds since 1970 by its own account; null if it names no moment. */
    public function sentAt(): ?int
    {
        $date = trim((string) preg_replace('/\([^)]*\)/', '', substr($this->root->first('date'), 0, 200)));
        $moment = $date === '' ? false : strtotime($date);

        return $moment === false || $moment < 0 || $moment > 0xFFFFFFFF ? null : $moment;
    }

    /** Its plain text; where it has none that of its HTML. */
    public function text(): string
    {
        $plain = $html = '';
        foreach ($this->bodies() as $part) {
            $text = $part->text($this->bytes, self::TEXT);
            if ($part->type->value === 'text/html') {
                $html .= HtmlText::of($text)."\n";
            } else {
                $isFlowed = strtolower($part->type->get('format') ?? '') === 'flowed';
                $plain .= ($isFlowed ? FlowedText::of($text, strtolower($part->type->get('delsp') ?? '') === 'yes') : $text)."\n";
            }
        }

        return trim(str_replace("\r\n", "\n", trim($plain) !== '' ? $plain : $html));
    }

    /** What is looked in for words: its text, and that of messages which were attached. */
    public function words(): string
    {
        $words = $this->text();
        foreach ($this->leaves($this->root) as $part) {
            if ($part->type->value === 'message/rfc822' && $part->parts !== []) {
                $words .= "\n".self::of(substr($this->bytes, $part->from, $part->until - $part->from))->text();
            }
        }

        return $words;
    }

    /** Its HTML as it was sent: to be cleaned before it is shown. '' if it has none. */
    public function html(): string
    {
        $html = '';
        foreach ($this->bodies() as $part) {
            $html .= $part->type->value === 'text/html' ? $part->text($this->bytes, self::TEXT) : '';
        }

        return $html;
    }

    /** @return list<Attachment> a message that was attached is one, whatever came with it */
    public function attachments(): array
    {
        $found = [];
        foreach ($this->leaves($this->root) as $part) {
            if ($part === $this->root ? $part->disposition()->value !== 'attachment' : self::isBody($part)) {
                continue;
            }
            $isMessage = $part->type->value === 'message/rfc822';
            $encoded = $part->until - $part->from;
            $found[] = new Attachment(
                $part->name() ?? ($isMessage ? 'message.eml' : ''),
                $part->type->value,
                $part->encoding() === 'base64' ? intdiv($encoded * 3, 4) : $encoded,
                trim($part->first('content-id'), '<> '),
                $part,
            );
        }

        return $found;
    }

    /** The headers as they stand, as text. */
    public function headerText(): string
    {
        return rtrim(Charset::toUtf8(substr($this->bytes, 0, min($this->root->from, 1 << 18)), ''));
    }

    /** @return list<MailAddress> */
    private function addresses(string $header): array
    {
        return MailAddress::list(implode(', ', $this->root->headers[$header] ?? []));
    }

    /** @return list<string> */
    private static function identifiers(string $header): array
    {
        preg_match_all('/<([^<>\s]{1,500})>/', substr($header, 0, 1 << 17), $found);
        $bare = trim($header);

        return $found[1] !== [] ? array_map(HeaderWords::clean(...), $found[1])
            : ($bare === '' || strlen($bare) > 500 || str_contains($bare, ' ') ? [] : [HeaderWords::clean($bare)]);
    }

    /** @return list<MessagePart> */
    private function bodies(): array
    {
        return array_values(array_filter($this->leaves($this->root), self::isBody(...)));
    }

    private static function isBody(MessagePart $part): bool
    {
        return str_starts_with($part->type->value, 'text/') && $part->disposition()->value !== 'attachment' && $part->name() === null;
    }

    /** @return list<MessagePart> what it consists of, without what only holds others */
    private function leaves(MessagePart $part): array
    {
        if (! $part->isMultipart() || $part->parts === []) {
            return [$part];
        }
        $leaves = [];
        foreach ($part->parts as $below) {
            array_push($leaves, ...$this->leaves($below));
        }

        return $leaves;
    }
}
