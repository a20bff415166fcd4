import { Box, Flex, Input } from "@chakra-ui/react";
import { useId, useState } from "react";

interface Props {
  label: string;
  value: number;
  unit?: string;
  least: number;
  most: number;
  /** Digits after the point that are shown and taken. */
  digits?: number;
  disabled?: boolean;
  onAccept: (value: number) => void;
}

/** A number that is typed: taken on Enter or on leaving; what cannot be taken stays, with the reason under it. */
export function NumberField({ label, value, unit = "", least, most, digits = 0, disabled, onAccept }: Props) {
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const shown = String(Number(value.toFixed(digits)));
  const accept = () => {
    if (typed === null) return;
    const number = Number(typed.trim().replace(",", ".").replace("−", "-"));
    const taken = Number(number.toFixed(digits));
    if (!typed.trim() || !Number.isFinite(number) || taken < least || taken > most) {
      setWrong(`${label}: a number from ${least} to ${most}`);
      return;
    }
    setTyped(null);
    setWrong(null);
    if (taken !== Number(shown)) onAccept(taken);
  };
  return (
    <Box mt="5px">
      <Flex align="center" justify="space-between" gap="8px">
        <label htmlFor={id}>{label}</label>
        <Flex align="center" gap="6px">
          <Input
            id={id}
            w="84px"
            h="40px"
            px="8px"
            bg="touch"
            borderColor={wrong ? "plumb" : "edge"}
            fontFamily="mono"
            textAlign="right"
            inputMode="decimal"
            disabled={disabled}
            aria-invalid={wrong !== null}
            value={typed ?? shown}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={accept}
            onKeyDown={(event) => {
              if (event.key === "Enter") accept();
              if (event.key !== "Escape") return;
              setTyped(null);
              setWrong(null);
            }}
          />
          {unit && (
            <Box as="span" minW="24px" color="second" fontSize="13px">
              {unit}
            </Box>
          )}
        </Flex>
      </Flex>
      {wrong && (
        <Box role="alert" fontSize="13px" color="plumb" textAlign="right">
          {wrong}
        </Box>
      )}
    </Box>
  );
}
