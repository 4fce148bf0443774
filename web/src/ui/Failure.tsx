import { Box, Button, Heading, Text } from "@chakra-ui/react";
import { Link } from "@tanstack/react-router";

interface Props {
  problem: { title: string; detail: string };
  retry?: () => void;
}

/** A whole view that cannot be shown: what happened, and the way on. */
export function Failure({ problem, retry }: Props) {
  return (
    <Box as="main" maxW="32rem" mx="auto" mt="20" p="6" borderWidth="1px" borderRadius="lg" bg="bg.panel">
      <Heading as="h1" size="md" mb="2">
        {problem.title}
      </Heading>
      <Text role="alert" mb="5" color="fg.muted">
        {problem.detail}
      </Text>
      <Box display="flex" gap="3">
        {retry && (
          <Button colorPalette="lantern" size="sm" onClick={retry}>
            Try again
          </Button>
        )}
        <Button asChild variant="outline" size="sm">
          <Link to="/">Back to the shelf</Link>
        </Button>
      </Box>
    </Box>
  );
}
